"""HTML to Creole 1.0: what it can say; of any other element the words."""

from __future__ import annotations

import re
from urllib.parse import quote

from selectolax.lexbor import LexborNode

from newburrow.markup.html import Fragment, TooDeep, children

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
    "h1",
    "h2",
    "h3",
    "h4",
    "h5",
    "h6",
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
    "span",
    "strong",
    "table",
    "tbody",
    "td",
    "tfoot",
    "th",
    "thead",
    "tr",
    "tt",
    "ul",
)
_DEEPEST = 60  # levels; of what is nested deeper only the words stay
_BLOCKS = frozenset(
    (
        "address",
        "article",
        "aside",
        "blockquote",
        "details",
        "dd",
        "div",
        "dl",
        "dt",
        "figcaption",
        "figure",
        "footer",
        "form",
        "header",
        "main",
        "nav",
        "section",
        "summary",
        "p",
        "h1",
        "h2",
        "h3",
        "h4",
        "h5",
        "h6",
        "hr",
        "ul",
        "ol",
        "pre",
        "table",
    )
)
_MARKS = {"strong": "**", "b": "**", "em": "//", "i": "//"}
_CODE = ("code", "tt", "kbd", "samp")
_TAG = re.compile(r"<[^>]*>")
_SPACE = re.compile(r"[ \t\n\r\f]+")
# What is markup within a line in Creole; the rest is markup only at the beginning of a line.
_SIGNS = re.compile(
    r"(?:https?|ftp)://[^\s<>\"']*[^\s<>\"'.,;:!?)]|~|\*\*|//|\\\\|\[\[|\{\{|\}\}|\]\]"
)
_BAR = re.compile(r"~(?:https?|ftp)://\S*|\|")
_STARTS = re.compile(r"[=*#|]|-{4}")


def to_creole(text: str) -> str:
    """The HTML as Creole. It ends in a newline, where there is anything."""
    try:
        fragment = Fragment(f"<div>{Fragment(text).html()}</div>")
    except TooDeep:  # if the HTML cannot be parsed, its words stay, without tags
        return _lines(_escaped(_TAG.sub(" ", text))) + "\n"
    holder = fragment.first()
    if holder is not None:
        made = _blocks(children(holder), 0)
    else:
        made = []
    if made:
        return "\n\n".join(made) + "\n"
    return ""


def _escaped(words: str) -> str:
    return _SIGNS.sub(lambda found: _tilded(found[0]), words)


def _tilded(sign: str) -> str:
    """A sign that means itself; of a pair each half is marked, lest one of three make a pair with the next."""
    if sign == "~" or sign[0].isalpha():
        return "~" + sign
    return "".join(f"~{letter}" for letter in sign)


def _barred(found: re.Match[str]) -> str:
    """A bar within a cell, which it must not end."""
    if found[0] == "|":
        return "~|"
    return found[0].replace("|", "%7C")


def _blocks(nodes: list[LexborNode], depth: int) -> list[str]:
    """The blocks; inline content between blocks is a paragraph."""
    made: list[str] = []
    run: list[LexborNode] = []

    def paragraph() -> None:
        words = _lines(_inline(run, ""))
        if words:
            made.append(words)
        run.clear()

    for node in nodes:
        if (node.tag or "") not in _BLOCKS:
            run.append(node)
            continue
        paragraph()
        if depth < _DEEPEST:
            made += _block(node, depth)
        elif words := _lines(_escaped(_SPACE.sub(" ", node.text() or ""))):
            made.append(words)
    paragraph()
    return made


def _block(node: LexborNode, depth: int) -> list[str]:
    tag = node.tag or ""
    if tag == "hr":
        return ["----"]
    if tag in ("ul", "ol"):
        if node.css_first("li"):
            return ["\n".join(_items(node, "", depth))]
        return _blocks(children(node), depth + 1)
    if tag == "pre":
        return [_preformatted(node)]
    if tag == "table":
        return ["\n".join(_rows(node))]
    if tag in ("h1", "h2", "h3", "h4", "h5", "h6") and not node.css_first("ul,ol,table,pre"):
        words = _one_line(children(node))
        if words:
            return [f"{'=' * int(tag[1])} {words} {'=' * int(tag[1])}"]
        return []
    return _blocks(children(node), depth + 1)


def _lines(made: str) -> str:
    """A paragraph, of which no line begins as another block does."""
    lines = [line.strip() for line in made.strip().split("\n")]
    return "\n".join(
        "~" + line if _STARTS.match(line) and not line.startswith("**") else line
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


def _items(node: LexborNode, marks: str, depth: int) -> list[str]:
    if node.tag == "ul":
        marks += "*"
    else:
        marks += "#"
    made: list[str] = []
    for item in children(node):
        if item.tag in ("ul", "ol"):  # wrongly nested, which is common
            made += _inner_items(item, marks, depth)
        if item.tag != "li":
            continue
        lists = [child for child in children(item) if child.tag in ("ul", "ol")]
        content = [child for child in children(item) if child.tag not in ("ul", "ol")]
        words = _one_line(content)
        made.append(
            f"{marks} {words}".rstrip()
            if not words.startswith(("*", "#"))
            else f"{marks} ~{words}"
        )
        for inner in lists:
            made += _inner_items(inner, marks, depth)
    return made


def _inner_items(node: LexborNode, marks: str, depth: int) -> list[str]:
    """A list within a list; of one that is nested beyond reason the words stay."""
    if depth < _DEEPEST:
        return _items(node, marks, depth + 1)
    words = _escaped(_SPACE.sub(" ", node.text() or "").strip())
    if words:
        return [f"{marks} {words}"]
    return []


def _rows(node: LexborNode) -> list[str]:
    made = []
    for row in node.css("tr"):
        cells = []
        for cell in children(row):
            if cell.tag in ("td", "th"):
                words = _one_line(children(cell), bar=True)
                cells.append(
                    ("=" if cell.tag == "th" else "~" if words.startswith("=") else "") + words
                )
        made.append("|" + "|".join(cells) + "|")
    return made


def _one_line(nodes: list[LexborNode], bar: bool = False) -> str:
    """Content where Creole takes one line; blocks and line breaks in it become breaks."""
    parts = []
    run: list[LexborNode] = []
    for node in [*nodes, None]:
        if node is not None and (node.tag or "") not in _BLOCKS:
            run.append(node)
            continue
        parts.append(_inline(run, "|" if bar else ""))
        run = []
        if node is not None:
            if node.tag == "pre":
                inner = _code(node.text() or "")
            else:
                inner = _one_line(children(node), bar)
            parts.append(inner)
    return "\\\\".join(
        cell_line for part in parts if (cell_line := part.replace("\n", " ").strip())
    )


def _code(words: str) -> str:
    flat = _SPACE.sub(" ", words)
    if "}}}" in flat or flat.endswith("}") or not flat.strip():
        return _escaped(flat)
    return "{{{" + flat + "}}}"


def _inline(nodes: list[LexborNode], inside: str) -> str:
    """Content within a line. `inside` holds the marks that are open, and `|` in a table."""
    made = []
    for node in nodes:
        tag = node.tag or ""
        if tag == "-text":
            words = _escaped(_SPACE.sub(" ", node.text_content or ""))
            made.append(_BAR.sub(_barred, words) if "|" in inside else words)
        elif tag == "br":
            made.append("\\\\")
        elif tag == "img":
            made.append(_picture(node))
        elif (
            tag == "a"
            and (target := (node.attributes.get("href") or "").strip())
            and "[" not in inside
        ):
            words = _inline(children(node), inside + "[")
            made.append(f"[[{_target(target)}|{words.strip()}]]" if words.strip() else "")
        elif tag in _CODE and "|" not in inside and "[" not in inside:
            made.append(_code(node.text() or ""))
        elif tag in _MARKS and _MARKS[tag] not in inside:
            made.append(_marked(_inline(children(node), inside + _MARKS[tag]), _MARKS[tag]))
        elif not tag.startswith("-"):
            made.append(_inline(children(node), inside))
    return "".join(made)


def _marked(words: str, mark: str) -> str:
    """Words between two marks, with the space around them outside."""
    core = words.strip()
    if not core:
        return words
    before, after = words[: len(words) - len(words.lstrip())], words[len(words.rstrip()) :]
    return f"{before}{mark}{core}{mark}{after}"


def _target(address: str) -> str:
    return re.sub(r"[|\[\]{}\s~]", lambda found: quote(found[0]), address)


def _picture(node: LexborNode) -> str:
    source = (node.attributes.get("src") or "").strip()
    alternative = (
        _SPACE.sub(" ", node.attributes.get("alt") or "")
        .replace("}}", "} }")
        .replace("{{", "{ {")
        .strip()
    )
    if source and alternative:
        return f"{{{{{_target(source)}|{alternative}}}}}"
    if source:
        return f"{{{{{_target(source)}}}}}"
    return ""
