"""Pieces of Markdown that one element of HTML becomes by itself."""

from __future__ import annotations

import re
from collections.abc import Iterator

from selectolax.lexbor import LexborNode

from newburrow.markup.html import children, start_tag
from newburrow.markup.markdown_signs import (
    code_span,
    escaped,
    first_escaped,
    link_target,
    title_part,
)
from newburrow.markup.white_space import WHITE_SPACE, collapsed, is_space

PLAIN_BLOCKS = frozenset(
    ("p", "h1", "h2", "h3", "h4", "h5", "h6", "blockquote", "ul", "ol", "pre", "hr", "table")
)
_BLOCKS = PLAIN_BLOCKS | frozenset(
    (
        "address",
        "article",
        "aside",
        "details",
        "dialog",
        "div",
        "dl",
        "dd",
        "dt",
        "fieldset",
        "figure",
        "figcaption",
        "footer",
        "form",
        "header",
        "iframe",
        "li",
        "main",
        "nav",
        "object",
        "section",
        "script",
        "style",
        "summary",
        "video",
        "audio",
        "tr",
        "td",
        "th",
        "tbody",
        "thead",
        "tfoot",
        "noscript",
        "center",
        "embed",
        "canvas",
        "template",
    )
)
# A list that begins right after a line of words: its first item is not empty, and its number is 1 (CommonMark 5.2).
_INTERRUPTS = re.compile(r"(?:[-*+]|1[.)]) +\S")
_LINE_START = re.compile(r"\n(?=[^\n])")
DEEPEST = 60  # levels; what is nested deeper stays HTML
_BLANK = re.compile(r"\n(?:[ \t]*\n)+")
MARKS = {"strong": "**", "b": "**", "em": "*", "i": "*", "del": "~~", "s": "~~"}
EMPTY = frozenset(("img", "br", "wbr", "input", "source", "hr", "embed"))


def is_block(node: LexborNode) -> bool:
    """Whether an element is a block."""
    return (node.tag or "") in _BLOCKS


def marks_around(node: LexborNode, sign: str) -> set[str]:
    """The marks with this sign that the elements around a node stand for."""
    found, parent = set(), node.parent
    while parent is not None and not is_block(parent):
        found.add(MARKS.get(parent.tag or "", ""))
        parent = parent.parent
    return {mark for mark in found if mark[:1] == sign}


def text_of(node: LexborNode) -> str:
    """The text of an element that holds nothing else."""
    return "".join(child.text_content or "" for child in children(node))


def task_box(node: LexborNode) -> str:
    """The mark of a task (`[x]`, `[ ]`) for a box that begins an item; empty for any other element."""
    if node.tag != "input":
        return ""
    attributes = node.attributes
    if attributes.get("type") != "checkbox":
        return ""
    holder = node.parent
    if holder is not None and holder.tag == "p":
        if holder.prev is not None and not is_space(holder.prev):
            return ""
        holder = holder.parent
    begins = node.prev is None or (is_space(node.prev) and node.prev.prev is None)
    if holder is None or holder.tag != "li" or not begins:
        return ""
    if "checked" in attributes:
        return "[x]"
    return "[ ]"


_START = 100  # characters of a text by which its first sign is known


def first_sign(node: LexborNode) -> str:
    """The first character that a node becomes, as far as it matters to emphasis; empty for a text without any."""
    if not node.is_text_node:
        if is_nothing(node):
            return (node.text() or "")[:1]
        return MARKS.get(node.tag or "", "<")[0]
    text = node.text_content or ""
    if not text:
        return ""
    if text[0] in WHITE_SPACE:
        return " "
    return first_escaped(text[:_START])


def is_nothing(node: LexborNode) -> bool:
    """Whether nothing is written of a node but white space."""
    if is_space(node):
        return True
    is_mark = node.tag in MARKS and not node.attributes
    return is_mark and all(map(is_nothing, children(node)))


def nearest_id(node: LexborNode, tag: str) -> int:
    """The parser's number of the nearest element of this tag around a node; 0 where there is none."""
    parent = node.parent
    while parent is not None and parent.tag != tag:
        parent = parent.parent
    if parent is not None:
        return int(parent.mem_id)
    return 0


def alignment_of(cell: LexborNode) -> str:
    """How the cells of a column are aligned, as a table's second line writes it."""
    found = re.search(r"text-align:\s*(left|right|center)", cell.attributes.get("style") or "")
    if found:
        return found[1]
    return (cell.attributes.get("align") or "").lower()


def indented(text: str, columns: int) -> str:
    """A text whose lines after the first are indented, but for those that are empty."""
    return _LINE_START.sub("\n" + " " * columns, text)


def tightened(inner: str, nodes: list[LexborNode]) -> str:
    """An item without paragraphs: what is nested follows its words without a blank line, where it can."""
    kinds = [node.tag for node in nodes if is_block(node)]
    if kinds and set(kinds) <= {"ul", "ol"}:
        first, _gap, other_blocks = inner.partition("\n\n")
        # A tag alone in a line begins HTML, which goes on to the next blank line (CommonMark 4.6).
        is_html = first.startswith("<")
        if _INTERRUPTS.match(other_blocks) and not (is_html or is_block(nodes[0])):
            return f"{first}\n{other_blocks}"
        return inner
    return inner


def image(node: LexborNode) -> str:
    """A picture (CommonMark 6.4), or its tag where it has more than address, text and title."""
    attributes = node.attributes
    source = attributes.get("src")
    if not source or set(attributes) - {"src", "alt", "title"}:
        return start_tag(node)
    words = escaped(collapsed(attributes.get("alt") or ""))
    return f"![{words}]({link_target(source)}{title_part(attributes.get('title') or '')})"


def is_plain_code(node: LexborNode) -> bool:
    """Whether an element is inline code of which nothing but its text matters."""
    if node.tag != "code" or node.attributes:
        return False
    return all(child.is_text_node for child in children(node))


def inline_code(node: LexborNode, before: str) -> str:
    """Inline code by its signs; by its tags where a backtick is before it."""
    words = collapsed(text_of(node))
    if words and before[-1:] != "`":
        return code_span(words)
    return f"<code>{escaped(words)}</code>"


def without_plain_boxes(nodes: list[LexborNode], depth: int) -> Iterator[LexborNode | None]:
    """The nodes, with those that plain boxes hold in the place of these; None where a box begins or ends."""
    for node in nodes:
        if (
            node.tag in ("div", "section", "article")
            and not node.attributes
            and depth < DEEPEST
        ):
            yield None
            yield from without_plain_boxes(children(node), depth + 1)
            yield None
        else:
            yield node


def raw_text(markup: str) -> str:
    """HTML as a block of its own: a blank line would end it."""
    kept = "<pre" in markup

    def joined(found: re.Match[str]) -> str:
        return "\n" + found[0][1:].replace("\n", "&#10;") if kept else "\n"

    return _BLANK.sub(joined, markup.strip())


def is_mark_of_place(node: LexborNode) -> bool:
    """Whether an element is nothing but a name that links lead to."""
    return node.tag in ("a", "span") and node.child is None


def is_block_or_comment(node: LexborNode) -> bool:
    """Whether a node is a block, or a comment, which can stand beside blocks."""
    return is_block(node) or node.tag == "-comment"


def is_read(tag: str) -> bool:
    """Whether something of a node is read; an instruction to some program is nothing to readers."""
    return tag[:1] not in ("", "-") or tag == "-comment"


def followings(nodes: list[LexborNode]) -> list[tuple[str, bool]]:
    """Of each node, the first sign after it, and whether only white space follows."""
    if len(nodes) == 1:
        return [("", True)]
    found: list[tuple[str, bool]] = []
    following, is_last = "", True
    for node in reversed(nodes):
        found.append((following, is_last))
        following = first_sign(node) or following
        is_last = is_last and is_nothing(node)
    return found[::-1]
