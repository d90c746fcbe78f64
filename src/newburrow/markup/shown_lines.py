"""A text as lines of plain words, for a terminal: a line for each paragraph, item, heading and row."""

from __future__ import annotations

import html
import re

from newburrow.markup.html import Fragment

_UNSHOWN = re.compile(
    r"<!--.*?-->|<(script|style|template|noscript|title)\b.*?</\1>", re.DOTALL | re.IGNORECASE
)
_ITEM = re.compile(r"<li\b[^>]*>", re.IGNORECASE)
_HEADING = re.compile(r"<h([1-6])\b[^>]*>", re.IGNORECASE)
_CELL = re.compile(r"</t[dh]>", re.IGNORECASE)
_PICTURE = re.compile(r'<img\b(?:[^>"]|"[^"]*")*>', re.IGNORECASE)
_ALT = re.compile(r'\salt="([^"]*)"', re.IGNORECASE)
_BREAK = re.compile(
    r"</?(?:address|article|aside|blockquote|br|caption|center|d[dlt]|details|div|fieldset|figcaption|figure|footer|"
    r"form|h[1-6r]|header|iframe|li|main|nav|ol|p|pre|section|summary|table|tbody|tfoot|thead|tr|ul|video|audio)\b"
    r'(?:[^>"]|"[^"]*")*>',
    re.IGNORECASE,
)
_TAG = re.compile(r'<(?:[^>"]|"[^"]*")*>')


def text_lines(text: str) -> list[str]:
    """The lines that an HTML text shows; a picture is its alternative text in brackets."""
    written = Fragment.of_any(text).html()
    written = _UNSHOWN.sub("", written)
    written = _PICTURE.sub(_picture, written)
    written = _HEADING.sub(lambda found: f"\n{'#' * int(found[1])} ", written)
    written = _CELL.sub(" | ", _ITEM.sub("\n• ", written))
    plain = html.unescape(_TAG.sub("", _BREAK.sub("\n", written)))
    return [words for line in plain.split("\n") if (words := " ".join(line.split()))]


def _picture(found: re.Match[str]) -> str:
    alternative = _ALT.search(found[0])
    if alternative and alternative[1]:
        return f"[picture: {alternative[1]}]"
    return "[picture]"
