"""Starts of lines and paragraphs in Markdown that would be read as another block."""

from __future__ import annotations

import re

# What would be read as the definition of a link or a footnote (CommonMark 4.7); `]:` may stand in code.
_DEFINITION = re.compile(r"\[(?:[^\[\]\\]|\\.)+\]:")
# Lines that begin a block of HTML, in which nothing is read as Markdown (CommonMark 4.6, conditions 1 to 6 and 7).
_HTML_START = re.compile(
    r"^ {0,3}<(?:!--|\?|![A-Za-z]|!\[CDATA\[|(?:script|pre|style|textarea)(?=[\s>]|$)|/?(?:"
    "address|article|aside|base|basefont|blockquote|body|caption|center|col|colgroup|dd|details|dialog|dir|div|dl|dt|"
    "fieldset|figcaption|figure|footer|form|frame|frameset|h[1-6]|head|header|hr|html|iframe|legend|li|link|main|menu|"
    "menuitem|nav|noframes|ol|optgroup|option|p|param|search|section|summary|table|tbody|td|tfoot|th|thead|title|tr|"
    r"track|ul)(?=\s|/?>|$))",
    re.IGNORECASE | re.MULTILINE,
)
_TAG_ALONE = re.compile(r" {0,3}</?[A-Za-z][A-Za-z0-9-]*(?:\s[^<>]*)?/?>\s*(?:\n|\\\n|$)")

_LINE_START = re.compile(
    r"^(\s{0,3}\d{0,9})((?<=\d)[.)](?=\s|$)|"
    r"(?<!\d)(?:#{1,6}(?=\s|$)|[-+](?=\s|$)|[-=]+\s*$|-(?=(?:[ \t]*-){2,}[ \t]*$)|>|:))"
)


def escaped_start(text: str) -> str:
    """A paragraph none of whose lines begins another block."""
    return "\n".join(
        _LINE_START.sub(lambda found: f"{found[1]}\\{found[2]}", line)
        for line in text.split("\n")
    )


def begins_otherwise(paragraph: str) -> bool:
    """Whether a paragraph, or a line of it, would be read as HTML or as a definition: no escape can help there."""
    if "<" in paragraph and (_HTML_START.search(paragraph) or _TAG_ALONE.match(paragraph)):
        return True
    return _DEFINITION.match(paragraph) is not None
