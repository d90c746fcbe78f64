"""HTML to Markdown: what CommonMark, tables, struck-out text and footnotes can say; everything else stays HTML.

Wherever Markdown would be read otherwise than it is meant, the HTML stays: CommonMark takes both.
"""

from __future__ import annotations

import re

from selectolax.lexbor import LexborNode

from newburrow.markup.footnotes import Footnotes
from newburrow.markup.html import Fragment, TooDeep, children, start_tag
from newburrow.markup.markdown_code import code_block
from newburrow.markup.markdown_pieces import (
    DEEPEST,
    EMPTY,
    MARKS,
    alignment_of,
    followings,
    image,
    indented,
    inline_code,
    is_block,
    is_block_or_comment,
    is_mark_of_place,
    is_plain_code,
    is_read,
    marks_around,
    nearest_id,
    raw_text,
    task_box,
    tightened,
    without_plain_boxes,
)
from newburrow.markup.markdown_signs import (
    can_close,
    can_open,
    escaped,
    link_target,
    title_part,
)
from newburrow.markup.markdown_starts import begins_otherwise, escaped_start
from newburrow.markup.white_space import collapsed, is_space

_HASH = ("#", "&num;")  # as a sign, by its number, and by its name (HTML standard 13.5)
_LAST_SIGNS = re.compile(r"(#+)$")


def to_markdown(text: str) -> str:
    """The HTML as Markdown. It ends in a newline, where there is anything."""
    try:
        fragment = Fragment.held(text)
    except TooDeep:
        return raw_text(text) + "\n"
    may_refer = any(map(text.__contains__, _HASH))
    notes = Footnotes(fragment) if may_refer else Footnotes()
    writer = _NodeWriter(notes)
    made = writer.document(_in_holder(fragment))
    if writer.references < notes.references:
        # A reference stays HTML, in a table or the like: so all footnotes stay what they are.
        made = _NodeWriter(Footnotes()).document(_in_holder(Fragment.held(text)))
    if made:
        return made + "\n"
    return ""


def _in_holder(fragment: Fragment) -> list[LexborNode]:
    holder = fragment.first()
    if holder is None:
        return []
    return children(holder)


class _NeedsHtml(Exception):
    """Inline content holds what can only stay HTML: so must the block around it, in which nothing is escaped."""


class _NodeWriter:
    """One text being written."""

    def __init__(self, notes: Footnotes) -> None:
        self.notes = notes
        self.references = 0  # to footnotes, written so far
        self.links_off = (
            False  # whether what is written is in HTML in which no address is a link
        )

    def document(self, nodes: list[LexborNode]) -> str:
        made = self.blocks(nodes, 0)
        for number, item in self.notes.in_order():
            inner = self.blocks(self.notes.words_of(item), 1) or "&nbsp;"
            made += ("\n\n" if made else "") + f"[^{number}]: " + indented(inner, 4)
        return made

    # -- blocks ----------------------------------------------------------------------------------

    def blocks(self, nodes: list[LexborNode], depth: int) -> str:
        """Blocks with blank lines between; inline content between blocks is a paragraph."""
        made: list[str] = []
        run: list[LexborNode] = []
        last_list = ""
        for node in [*without_plain_boxes(nodes, depth), None]:
            if (
                node is not None
                and not is_block(node)
                and not (node.tag == "-comment" and not run)
            ):
                run.append(node)
                continue
            if run and (text := self._paragraph(run)):
                made.append(text)
                last_list = ""
            run = []
            if node is None or self.notes.is_section(node):
                continue
            marker = self._list_marker(node, last_list)
            if text := self._block(node, depth, marker):
                made.append(text)
                last_list = marker
        return "\n\n".join(made)

    @staticmethod
    def _list_marker(node: LexborNode, last: str) -> str:
        """The marker of a list; one right after another of its kind needs a different one."""
        if node.tag == "ul":
            if last == "-":
                return "*"
            return "-"
        if node.tag == "ol":
            if last == ".":
                return ")"
            return "."
        return ""

    def _paragraph(self, run: list[LexborNode]) -> str:
        """Inline content as a paragraph; as HTML where a line of it would begin a block of HTML."""
        try:
            made = escaped_start(self.inline(run).strip(" \n"))
        except _NeedsHtml:
            return self._as_html(run)
        if begins_otherwise(made):
            return self._as_html(run)
        return made

    @staticmethod
    def _as_html(run: list[LexborNode]) -> str:
        """Inline content as a block of HTML: in a paragraph, if there is anything to read in it."""
        inner = _OTHER_TAG.sub("", "".join(node.html or "" for node in run)).strip()
        if any((node.text() or "").strip() for node in run):
            inner = f"<p>{inner}</p>"
        elif inner.startswith("<!--"):  # the line in which a comment ends, ends its block
            inner = inner.replace("\n", " ")
        return raw_text(inner)

    def _block(self, node: LexborNode, depth: int, marker: str) -> str:
        tag = node.tag or ""
        made: str | None = None
        if depth < DEEPEST:
            if tag in ("ul", "ol"):
                made = self._list(node, depth, marker)
            elif tag in ("pre", "div") and (code := code_block(node)):
                made = code
            else:
                try:
                    made = self._of_words(node, tag, depth)
                except _NeedsHtml:
                    made = None
        if made is None:
            return raw_text(node.html or "")
        return made

    def _of_words(self, node: LexborNode, tag: str, depth: int) -> str | None:
        """A table, or a block without attributes."""
        if tag == "table":
            return self._table(node)
        if tag in _BOXES and node.attributes:
            return self._box(node, depth)
        if node.attributes:
            return None
        return self._simple(node, tag, depth)

    def _box(self, node: LexborNode, depth: int) -> str | None:
        """A box of blocks: its tags in lines of their own, Markdown between them (CommonMark 4.6, condition 6).

        None for one that holds words of its own, for one within an item, which a blank line would change, and for
        one in which nothing can be said in Markdown.
        """
        nodes = [child for child in children(node) if not is_space(child)]
        start = start_tag(node)
        while nodes and is_mark_of_place(nodes[0]):
            start += (nodes.pop(0).html or "").replace("\n", "&#10;")
        if nearest_id(node, "li") or not all(map(is_block_or_comment, nodes)):
            return None
        inner = self.blocks(nodes, depth + 1)
        if not inner or all(block.startswith("<") for block in inner.split("\n\n")):
            return None
        return f"{start}\n\n{inner}\n\n</{node.tag}>"

    def _simple(self, node: LexborNode, tag: str, depth: int) -> str | None:
        """A block without attributes that Markdown has; None for any other."""
        nodes = children(node)
        if tag == "p":
            return self._paragraph(nodes)
        if tag == "hr":
            return "---"
        if tag[:1] == "h" and tag[1:].isdigit():
            words = self.inline(nodes).strip(" \n")
            if "\n" in words:
                return None
            # they would be read as the end of the heading
            words = _LAST_SIGNS.sub(r"\\\1", words)
            return f"{'#' * int(tag[1:])} {words}".rstrip()
        if tag == "blockquote":
            inner = self.blocks(nodes, depth + 1)
            return "\n".join(f"> {line}" if line else ">" for line in inner.split("\n"))
        return None

    def _list(self, node: LexborNode, depth: int, marker: str) -> str | None:
        items = [child for child in children(node) if not is_space(child)]
        start = node.attributes.get("start")
        extra = set(node.attributes) - {"start"}
        if not items or extra or any(item.tag != "li" or item.attributes for item in items):
            return None
        if start and start.isdigit() and len(start) < 9:
            number = int(start)
        else:
            number = 1
        if start and number != int(start if start.isdigit() else -1):
            return None
        loose = any(child.tag == "p" for item in items for child in children(item))
        made = []
        for item in items:
            if node.tag == "ol":
                lead = f"{number}{marker} "
            else:
                lead = f"{marker} "
            nodes = children(item)
            inner = self.blocks(nodes, depth + 1)
            if not loose:
                inner = tightened(inner, nodes)
            if inner.partition("\n")[0] == "---" and marker == "-":
                inner = inner.replace("---", "***", 1)  # else the item would be a rule itself
            made.append((lead + indented(inner, len(lead))).rstrip())
            number += 1
        return ("\n\n" if loose else "\n").join(made)

    def _table(self, node: LexborNode) -> str | None:
        """A table with one row of headings and plain cells (GFM tables); None for any other."""
        rows = [row for row in node.css("tr") if nearest_id(row, "table") == node.mem_id]
        cells = [[cell for cell in children(row) if cell.tag in ("td", "th")] for row in rows]
        inner = [
            descendant
            for descendant in node.css("*")
            if descendant.tag not in ("table", "thead", "tbody", "tr", "td", "th")
        ]
        if (
            len(rows) < 1
            or not cells[0]
            or any(len(row) != len(cells[0]) for row in cells)
            or any(cell.tag != "th" for cell in cells[0])
            or any(cell.tag != "td" for row in cells[1:] for cell in row)
            or any(
                is_block(node) or node.tag in ("br", "caption", "col", "colgroup")
                for node in inner
            )
            or any(set(cell.attributes) - {"style", "align"} for row in cells for cell in row)
            or node.attributes
        ):
            return None
        aligned = [alignment_of(cell) for cell in cells[0]]
        lines = [
            [self.inline(children(cell)).strip().replace("|", "\\|") for cell in row]
            for row in cells
        ]
        lines.insert(
            1,
            [
                {"left": ":--", "right": "--:", "center": ":-:"}.get(node, "---")
                for node in aligned
            ],
        )
        return "\n".join("| " + " | ".join(row) + " |" for row in lines)

    # -- inline ----------------------------------------------------------------------------------

    def inline(self, nodes: list[LexborNode], before: str = "", after: str = "") -> str:
        """Inline content, a run of spaces as one; `before` and `after` are the characters around it."""
        if len(nodes) == 1 and nodes[0].is_text_node:  # as within most elements
            return self._text(nodes[0])
        # An instruction to some program is nothing to readers.
        nodes = [node for node in nodes if node.is_text_node or is_read(node.tag or "")]
        made, last, is_first = list[str](), "", True
        for node, (following, is_last) in zip(nodes, followings(nodes), strict=True):
            piece = self._piece(node, last or before, following or after, is_last or is_first)
            if piece[:1] == " " and last[-1:] in (" ", "\n"):
                piece = piece[1:]
            made.append(piece)
            last = piece or last
            is_first = is_first and not piece.strip()
        return "".join(made)

    def _text(self, node: LexborNode) -> str:
        return escaped(collapsed(node.text_content or ""), self.links_off)

    def _piece(self, node: LexborNode, before: str, following: str, at_edge: bool) -> str:
        if node.is_text_node:
            return self._text(node)
        tag = node.tag or ""
        if tag == "-comment":
            return node.html or ""
        if number := self.notes.number_of(node):
            self.references += 1
            return f"[^{number}]"
        if tag == "br" and not node.attributes:
            if at_edge:
                return "<br>"
            return "\\\n"
        return self._element(node, tag, before, following)

    def _element(self, node: LexborNode, tag: str, before: str, following: str) -> str:
        if tag in MARKS and not node.attributes:
            return self._marked(node, before, following)
        if box := task_box(node):
            if following[:1].isspace():
                return box
            return f"{box} "
        if is_plain_code(node):
            return inline_code(node, before)
        if tag == "a":
            return self._link(node)
        if tag == "img":
            return image(node)
        return self._tagged(node, following)

    def _marked(self, node: LexborNode, before: str, after: str) -> str:
        """Emphasis by its signs where these are read so; by its tags elsewhere."""
        mark = MARKS[node.tag or ""]
        inner = self.inline(children(node), mark[0], mark[0])
        words = inner.strip(" \n")
        if not words:
            return inner
        lead, tail = (
            inner[: len(inner) - len(inner.lstrip(" \n"))],
            inner[len(inner.rstrip(" \n")) :],
        )
        preceding, following = (lead or before)[-1:], (tail or after)[:1]
        clear = mark[0] not in (words[0], words[-1], preceding, following) and (
            not (around := marks_around(node, mark[0]))
            or (
                mark not in around
                and preceding.isspace()
                and (following.isspace() or following in ".,;:!?")
            )
        )
        if (
            clear
            and can_open(preceding, words[0])
            and can_close(words[-1], following)
            and "\n\n" not in words
        ):
            return f"{lead}{mark}{words}{mark}{tail}"
        return f"<{node.tag}>{inner}</{node.tag}>"

    def _link(self, node: LexborNode) -> str:
        attributes, nodes = node.attributes, children(node)
        target = attributes.get("href")
        if target is None or attributes.keys() - {"href", "title"} or _holds_block(node, nodes):
            return self._tagged(node)
        words = self.inline(nodes, "[", "]")
        if not words.strip():
            return self._tagged(node)
        if words[0] == "^":  # it would begin the name of a footnote
            words = f"\\{words}"
        title = attributes.get("title") or ""
        return f"[{words}]({link_target(target)}{title_part(title)})"

    def _tagged(self, node: LexborNode, following: str = "") -> str:
        """An element that stays HTML, with its inner text as Markdown; one with blocks in it whole."""
        tag = node.tag or ""
        if not _TAG_NAME.fullmatch(
            tag
        ):  # CommonMark has no such tags, nor do browsers know them
            return self.inline(children(node), "", following)
        if tag in _NOT_READ or any(
            (is_block(descendant) and descendant.tag not in _EMBEDDED)
            or descendant.tag in _NOT_READ
            for descendant in node.css("*")
        ):
            raise _NeedsHtml
        if tag in EMPTY:
            return start_tag(node)
        was_links_off, self.links_off = self.links_off, self.links_off or tag in _NO_LINKS
        try:
            inner = self.inline(children(node), ">", "<")
        finally:
            self.links_off = was_links_off
        return f"{start_tag(node)}{inner}</{tag}>"


def _holds_block(node: LexborNode, nodes: list[LexborNode]) -> bool:
    """Whether a block is within an element; `nodes` are its children."""
    # Most links hold text alone, and a search takes far longer than a look at it.
    if all(child.is_text_node for child in nodes):
        return False
    return any(is_block(descendant) for descendant in node.css("*"))


_NO_LINKS = ("a", "code", "samp", "kbd", "tt")  # in which no address is a link of its own
_BOXES = frozenset(("div", "section", "article", "aside", "main", "header", "footer", "nav"))
_EMBEDDED = ("iframe", "video", "audio", "object", "embed", "canvas")
_NOT_READ = (
    "script",
    "style",
    "textarea",
    "svg",
    "math",
    "iframe",
    "object",
    "noscript",
    "template",
)
_OTHER_TAG = re.compile(
    r"</?[a-z][^\s/>]*[^a-zA-Z0-9\s/>-][^>]*>"
)  # no tag of CommonMark: `<o:p>`
_TAG_NAME = re.compile(r"[A-Za-z][A-Za-z0-9-]*")
