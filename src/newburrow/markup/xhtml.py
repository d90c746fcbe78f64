"""HTML as XHTML: well-formed XML, for formats whose texts are elements of their own (HTML standard, section 14)."""

from __future__ import annotations

import re
from collections.abc import Iterator
from html import escape

from selectolax.lexbor import LexborNode

from newburrow.markup.html import Fragment, children
from newburrow.markup.html_tags import VOID

_NOT_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_BLOCKS = frozenset(
    ("address", "article", "aside", "blockquote", "dd", "details", "div", "dl", "dt", "fieldset", "figure", "footer",
     "form", "h1", "h2", "h3", "h4", "h5", "h6", "header", "hr", "li", "main", "nav", "ol", "p", "pre", "section",
     "table", "ul")
)  # fmt: skip
_NAME = frozenset("abcdefghijklmnopqrstuvwxyz0123456789-_:.")


def xhtml(html: str) -> str:
    """The fragment as well-formed XML without a namespace of its own; comments are left out."""
    fragment = Fragment.of_any(html)
    return "".join(_siblings(fragment.first()))


def blocks(html: str) -> str:
    """The same, where text that stands alone is put into paragraphs."""
    fragment = Fragment.of_any(html)
    made, inline = list[str](), list[str]()
    node = fragment.first()
    while node is not None:
        if node.tag in _BLOCKS:
            made += [_paragraph(inline), *_node(node)]
            inline = []
        else:
            inline += _node(node)
        node = node.next
    return "".join(filter(None, [*made, _paragraph(inline)]))


def _paragraph(inline: list[str]) -> str:
    words = "".join(inline).strip()
    if words:
        return f"<p>{words}</p>"
    return ""


def _siblings(node: LexborNode | None) -> Iterator[str]:
    while node is not None:
        yield from _node(node)
        node = node.next


def _node(node: LexborNode) -> Iterator[str]:
    tag = (node.tag or "").lower()
    if node.is_text_node:
        yield escaped(node.text_content or "")
        return
    if node.is_comment_node or not tag or not set(tag) <= _NAME or tag.startswith("-"):
        return
    yield f"<{tag}{''.join(_attributes(node))}"
    if tag in VOID:
        yield "/>"
        return
    yield ">"
    for child in children(node):
        yield from _node(child)
    yield f"</{tag}>"


def _attributes(node: LexborNode) -> Iterator[str]:
    for name, value in node.attributes.items():
        lowered = name.lower()
        if lowered and set(lowered) <= _NAME and lowered[0].isalpha() and ":" not in lowered:
            shown = escaped(value if value is not None else lowered).replace('"', "&quot;")
            yield f' {lowered}="{shown}"'


def escaped(value: str) -> str:
    """Character data: what XML 1.0 section 2.2 does not allow becomes U+FFFD."""
    return escape(_NOT_XML.sub("\N{REPLACEMENT CHARACTER}", value), quote=False)
