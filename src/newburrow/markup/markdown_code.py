"""Blocks of code as fences of Markdown: `pre`, also with the boxes and colours of a program that highlights code."""

from __future__ import annotations

import re

from selectolax.lexbor import LexborNode

from newburrow.markup.html import children
from newburrow.markup.markdown_signs import fence
from newburrow.markup.white_space import is_space

_LANGUAGE = re.compile(
    r"(?:^|\s)(?:lang(?:uage)?|highlight(?:-source)?)-(\S+)|(?:^|\s)sourceCode\s+(\S+)"
)
_NO_LANGUAGE = ("default", "none", "text", "plaintext", "notranslate")
# Classes that say no more than that something is code, and in which language.
_OF_CODE = re.compile(
    r"(?:highlight|code|codehilite|sourceCode|programlisting|screen|prettyprint|linenums|notranslate|literal-block|"
    r"(?:lang|language|highlight)-\S+)"
)


def code_block(node: LexborNode) -> str | None:
    """The fence (CommonMark 4.5) for a `pre`, or for a box with nothing but one in it; None where there is none.

    What would be lost keeps it from being one: an id, a link, a class that is not about code.
    """
    classes = []
    while node.tag != "pre":
        inner = [child for child in children(node) if not is_space(child)]
        if node.tag != "div" or len(inner) != 1 or not _is_of_code(node):
            return None
        classes.append(node.attributes.get("class") or "")
        node = inner[0]
    if not _is_of_code(node):
        return None
    classes.append(node.attributes.get("class") or "")
    holder = _holder(node)
    if holder is not node:
        name = holder.attributes.get("class") or ""
        if set(holder.attributes) - {"class"} or (name and not _LANGUAGE.search(name)):
            return None
        classes.append(name)
    if any(not child.is_text_node and not _is_colour(child) for child in children(holder)):
        return None
    text = holder.text() or ""
    if not text and holder is not node:
        return None
    return fence(text if text.endswith("\n") else f"{text}\n", _language(classes))


def _holder(node: LexborNode) -> LexborNode:
    """What the text of a `pre` stands in: the `code` in it, if there is one and nothing else."""
    inner = [child for child in children(node) if not is_space(child)]
    if len(inner) == 1 and inner[0].tag == "code":
        return inner[0]
    return node


def _is_of_code(node: LexborNode) -> bool:
    """Whether an element has no attributes but classes that say that it is code."""
    attributes = node.attributes
    if not attributes:
        return node.tag == "pre"
    names = (attributes.get("class") or "").split()
    if not names or set(attributes) != {"class"}:
        return False
    return all(map(_OF_CODE.fullmatch, names)) or (names[0] == "sourceCode" and len(names) == 2)


def _is_colour(node: LexborNode) -> bool:
    """Whether an element within code only gives its words a colour."""
    return (
        node.tag == "span"
        and not set(node.attributes) - {"class"}
        and all(child.is_text_node or _is_colour(child) for child in children(node))
    )


def _language(classes: list[str]) -> str:
    """The language that the innermost class names; empty for none."""
    for name in reversed(classes):
        if found := _LANGUAGE.search(name):
            language = str(found[1] or found[2])
            if language in _NO_LANGUAGE:
                return ""
            return language
    return ""
