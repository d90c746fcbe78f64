"""The document type of an HTML page, in which XHTML may declare entities (XML 1.0, section 2.8)."""

from __future__ import annotations

import re

_FIRST = 4096  # bytes in which a page declares its type
_BEGINS = re.compile(
    rb"(?:\xef\xbb\xbf)?(?:\s|<\?xml\b[^>]*\?>|<!--.*?-->)*+<!DOCTYPE\s+html\b",
    re.IGNORECASE | re.DOTALL,
)
# The rest of the declaration, with what stands in its brackets. Nothing in it is scanned twice.
_SUBSET = re.compile(
    rb"""(?:[^\[>"']|"[^"]*"|'[^']*')*+"""
    rb"""(\[(?:<!--.*?-->|"[^"]*"|'[^']*'|<(?!!--)|[^]"'<])*+\]\s*)>""",
    re.DOTALL,
)


def is_html(start: bytes) -> bool:
    """Whether a document, of which these are the first bytes, is HTML by its document type."""
    return _BEGINS.match(start) is not None


def without_declarations(data: bytes) -> bytes:
    """A page without what its document type declares, which the HTML parser takes for text.

    Lines keep their numbers.
    """
    start = data[:_FIRST]
    begins = _BEGINS.match(start) if b"<!ENTITY" in start else None
    found = _SUBSET.match(data, begins.end()) if begins else None
    if found is None:
        return data
    return data[: found.start(1)] + b"\n" * found[1].count(b"\n") + data[found.end(1) :]
