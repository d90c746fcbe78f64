"""The document type of an HTML page, in which XHTML may declare entities (XML 1.0, section 2.8)."""

from __future__ import annotations

import re

_FIRST = 4096  # bytes in which a page declares its type
_TYPE = rb"<!DOCTYPE\s+html\b"
_BEGINS = re.compile(
    rb"(?:\xef\xbb\xbf)?(?:\s|<\?xml\b[^>]*\?>|<!--.*?-->)*+" + _TYPE,
    re.IGNORECASE | re.DOTALL,
)
# What stands in brackets, up to the end of the declaration.
_SUBSET = re.compile(
    _TYPE
    + rb"""(?:[^\[>"']|"[^"]*"|'[^']*')*+"""
    + rb"""(\[(?:<!--.*?-->|"[^"]*"|'[^']*'|[^\]"'])*+\]\s*)>""",
    re.IGNORECASE | re.DOTALL,
)


def is_html(start: bytes) -> bool:
    """Whether a document, of which these are the first bytes, is HTML by its document type."""
    return _BEGINS.match(start) is not None


def without_declarations(data: bytes) -> bytes:
    """A page without what its document type declares, which a parser of HTML takes for text; no line moves."""
    if b"<!ENTITY" not in data[:_FIRST] or not is_html(data[:_FIRST]):
        return data
    found = _SUBSET.search(data)
    if found is None:
        return data
    return data[: found.start(1)] + b"\n" * found[1].count(b"\n") + data[found.end(1) :]
