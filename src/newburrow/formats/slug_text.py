"""Slugs as exports write them."""

from __future__ import annotations

from urllib.parse import unquote


def decoded_slug(text: str) -> str:
    """A slug without percent-encoding, where that is of UTF-8 (RFC 3986 section 2.5); else unchanged."""
    if "%" not in text:
        return text
    try:
        return unquote(text, errors="strict")
    except UnicodeDecodeError:
        return text
