"""HTML to Creole 1.0: what it can say; of any other element the words."""

from __future__ import annotations

import re
from urllib.parse import unquote

from selectolax.lexbor import LexborNode

from newburrow.markup.base import NameOf, no_name
from newburrow.markup.creole_inline import (
    BLOCKS,
    PAGE_NAME,
    escaped,
    inline,
    one_line,
    with_addresses,
)
from newburrow.markup.html import Fragment, TooDeep, children
from newburrow.markup.html_tags import HEADINGS
from newburrow.markup.links_around_blocks import within_blocks
from newburrow.markup.white_space import collapsed

ELEMENTS = (
    "a",
    "article",
    "b",
    "br",
    "code",
    "div",
    "em",
    "figcaption",
    "figure",
    *HEADINGS,
    "hr",
    "i",
    "img",
    "kbd",
    "li",
    "main",
    "ol",
    "p",
    "pre",
    "samp",
    "section",
    "dd",
    "dl",
    "dt",
    "span",
    "strong",
    "sub",
    "sup",
    "table",
    "tbody",
    "td",
    "tfoot",
    "th",
    "thead",
    "tr",
    "tt",
    "u",
    "ul",
)
_DEEPEST = 60  # levels; of what is nested deeper only the words stay
_TAG = re.compile(r"<[^>]*>")
_STARTS = re.compile(r"[=*#|]|-{4}|[;:](?=\s)")


def to_creole(text: str, name_of: NameOf = no_name) -> str:
    """The HTML as Creole. It ends in a newline, where there is anything.

    A link to an address for which `name_of` gives the name of a page is written by that name.
    """
    try:
        fragment = Fragment.held(text)
        for link in fragment.select("a[href]"):
            address, _mark, section = (link.attributes.get("href") or "").partition("#")
            if name := name_of(address):
                link.attrs[PAGE_NAME] = f"{name}#{unquote(section)}" if section else name
            elif section and not address:
                link.attrs["href"] = f"#{unquote(section)}"
    except TooDeep:  # if the HTML cannot be parsed, its words stay, without tags
        return with_addresses(_lines(escaped(_TAG.sub(" ", text)))) + "\n"
    holder = fragment.first()
    if holder is not None:
        made = _blocks(children(holder), 0)
    else:
        made = []
    if made:
        return with_addresses("\n\n".join(made)) + "\n"
    return ""


def _blocks(nodes: list[LexborNode], depth: int) -> list[str]:
    """The blocks; inline content between blocks is a paragraph."""
    made: list[str] = []
    run: list[LexborNode] = []

    def paragraph() -> None:
        words = _lines(inline(run, ""))
        if words:
            made.append(words)
        run.clear()

    for node in nodes:
        if node.tag == "a" and (pushed := within_blocks(node, BLOCKS)):
            paragraph()
            fragment = Fragment.held(pushed)
            holder = fragment.first()
            made += _blocks(children(holder), depth + 1) if holder else []
            continue
        if (node.tag or "") not in BLOCKS:
            run.append(node)
            continue
        paragraph()
        if depth < _DEEPEST:
            made += _block(node, depth)
        elif words := _lines(escaped(collapsed(node.text() or ""))):
            made.append(words)
    paragraph()
    return made


def _block(node: LexborNode, depth: int) -> list[str]:
    tag = node.tag or ""
    if tag == "hr":
        return ["----"]
    if tag in ("ul", "ol"):
        if node.css_first("li"):
            written = _ListWriter()
            written.add(node, "", depth)
            return ["\n".join(written.lines).strip("\n")]
        return _blocks(children(node), depth + 1)
    if tag == "pre":
        return [_preformatted(node)]
    if tag == "table" and _is_layout(node):
        return _laid_out(node, depth)
    if tag == "table":
        return [one_line([child]) for child in children(node) if child.tag == "caption"] + [
            "\n".join(_rows(node))
        ]
    if tag == "dl":
        return _terms(node, depth)
    if tag in HEADINGS and not node.css_first("ul,ol,table,pre"):
        words = one_line(children(node))
        if words:
            return [f"{'=' * int(tag[1])} {words} {'=' * int(tag[1])}"]
        return []
    return _blocks(children(node), depth + 1)


def _lines(made: str) -> str:
    """A paragraph, of which no line begins as another block does."""
    lines = [line.strip() for line in made.strip().split("\n")]
    return "\n".join(
        "~" + line if _STARTS.match(line) and not line.startswith(("**", "##")) else line
        for line in lines
        if line
    )


def _preformatted(node: LexborNode) -> str:
    words = (node.text() or "").strip("\n")
    # A line that ends the block is moved by a space, as the standard says.
    return (
        "{{{\n"
        + "\n".join(
            f" {line}" if line.rstrip() == "}}}" else line for line in words.split("\n")
        )
        + "\n}}}"
    )


class _ListWriter:
    """One list with those in it, line by line. A block that needs lines of its own ends it; then it begins anew."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self._cut = 0  # marks of outer lists, which have ended

    def add(self, node: LexborNode, marks: str, depth: int) -> None:
        """The items of a list; `marks` are those of the lists around it."""
        self._items(children(node), marks + ("*" if node.tag == "ul" else "#"), depth)

    def _items(self, nodes: list[LexborNode], marks: str, depth: int) -> None:
        """Items, and what else stands in a list, though it should not: nothing of it is lost."""
        for node in nodes:
            if node.tag in ("ul", "ol"):  # wrongly nested, which is common
                if not self.lines:  # there is no item that it could be in
                    self._cut = len(marks)
                self._inner(node, marks, depth)
            elif node.tag == "li":
                self._item(node, marks, depth)
            elif node.css_first("li"):  # such as a link that was not closed
                self._items(children(node), marks, depth)
            elif words := one_line([node]):
                self._line(words, marks)

    def _line(self, words: str, marks: str) -> None:
        literal = words.startswith(("*", "#")) and not words.startswith(("**", "##"))
        self._cut = min(self._cut, len(marks) - 1)
        self.lines.append(f"{marks[self._cut :]} {'~' if literal else ''}{words}".rstrip())

    def _item(self, item: LexborNode, marks: str, depth: int) -> None:
        inline, rest = _parted(children(item))
        self._line(one_line(inline), marks)
        for place, node in enumerate(rest):
            if node.tag in ("ul", "ol"):
                self._inner(node, marks, depth)
            elif blocks := _blocks(rest[place:], depth + 1):
                self.lines += ["", "\n\n".join(blocks), ""]
                self._cut = len(marks) - 1
                return

    def _inner(self, node: LexborNode, marks: str, depth: int) -> None:
        """A list within a list; of one that is nested beyond reason the words stay."""
        if depth < _DEEPEST:
            self.add(node, marks, depth + 1)
            return
        words = escaped(collapsed(node.text() or "").strip())
        if words:
            self.lines.append(f"{marks[self._cut :]} {words}")


def _terms(node: LexborNode, depth: int) -> list[str]:
    """A list of terms and what they mean, a line each; blocks in a meaning follow it, and end the list.

    A meaning without a term before it is a paragraph: a list begins with a term.
    """
    made: list[str] = []
    lines: list[str] = []
    for child in _terms_of(node):
        inner = children(child) if child.tag in ("dt", "dd") else [child]
        inline, blocks = _parted(inner)
        if child.tag != "dt" and not lines:
            made += _blocks(inner, depth + 1)
            continue
        words = one_line(inline)
        if child.tag == "dt" and not words:  # a reader takes the mark alone for a word
            made += ["\n".join(lines)] if lines else []
            made += _blocks(blocks, depth + 1)
            lines = []
            continue
        lines.append(f"{';' if child.tag == 'dt' else ':'} {words}".rstrip())
        if blocks:
            made += ["\n".join(lines), *_blocks(blocks, depth + 1)]
            lines = []
    if lines:
        made.append("\n".join(lines))
    return made or _blocks(children(node), depth + 1)


def _terms_of(node: LexborNode) -> list[LexborNode]:
    """The terms and meanings of a list, also those that boxes group (HTML standard section 4.4.9)."""
    found = []
    for child in children(node):
        if child.tag in ("dt", "dd"):
            found.append(child)
        elif child.tag == "div" or child.css_first("dt,dd"):
            found += _terms_of(child)
        elif (child.text() or "").strip():  # it should not be there
            found.append(child)
    return found


def _parted(nodes: list[LexborNode]) -> tuple[list[LexborNode], list[LexborNode]]:
    """What comes before the first block that needs lines of its own, and the rest."""
    for place, node in enumerate(nodes):
        needs_lines = "ul,ol,dl,pre,table,h1,h2,h3,h4,h5,h6"
        if node.tag in needs_lines.split(",") or (
            node.tag in BLOCKS and node.css_first(needs_lines)
        ):
            return nodes[:place], nodes[place:]
    return nodes, []


def _own_rows(node: LexborNode) -> list[LexborNode]:
    """The rows of a table, without those of tables in its cells."""
    return [row for row in node.css("tr") if _nearest_table(row) == node.mem_id]


def _nearest_table(node: LexborNode) -> int:
    above = node.parent
    while above is not None and above.tag != "table":
        above = above.parent
    if above is not None:
        return above.mem_id
    return 0


def _is_layout(node: LexborNode) -> bool:
    """Whether a table only arranges what is in it, so that it is blocks one after another to a reader."""
    return any(found.mem_id != node.mem_id for found in node.css("h1,h2,h3,h4,h5,h6,table,pre"))


def _laid_out(node: LexborNode, depth: int) -> list[str]:
    cells = [
        cell for row in _own_rows(node) for cell in children(row) if cell.tag in ("td", "th")
    ]
    captions = [child for child in children(node) if child.tag == "caption"]
    return [
        block for cell in (*captions, *cells) for block in _blocks(children(cell), depth + 1)
    ]


def _rows(node: LexborNode) -> list[str]:
    made = []
    for row in _own_rows(node):
        cells = []
        for cell in children(row):
            if cell.tag in ("td", "th"):
                words = one_line(children(cell), bar=True)
                cells.append(
                    ("=" if cell.tag == "th" else "~" if words.startswith("=") else "") + words
                )
        made.append("|" + "|".join(cells) + "|")
    return made
