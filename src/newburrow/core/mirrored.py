"""Addresses with a query that a program saved as a file: its name holds the query (`view.php?id=3.html`)."""

from __future__ import annotations

import re
from urllib.parse import quote, unquote

from newburrow.core import url

_MARK = re.compile("%3f", re.IGNORECASE)
_QUERY = re.compile(r"[\w.~%\[\]-]+=")
_ADDED = re.compile(r"\.x?html?\Z", re.IGNORECASE)  # so that the file is shown as a page
_SAFE = (
    "!$'()*,;:@/?&=+%"  # characters that stay as they are in a query, which is encoded already
)


def address_of(address: str) -> str:
    """The address that a file stands for, by the address that the file would have; any other stays as it is.

    In a name of a file the `?` is no mark of a query (RFC 3986 section 3.4), so that it is encoded in its address.
    """
    bare, mark, fragment = address.partition("#")
    mirrored = _MARK.search(bare)
    if mirrored is None or "?" in bare:
        return address
    query = _ADDED.sub("", unquote(bare[mirrored.end() :]))
    if not _QUERY.match(query):  # a question, in the name of a page
        return address
    return f"{bare[: mirrored.start()]}?{quote(query, safe=_SAFE)}{mark}{fragment}"


def place_of(address: str) -> str:
    """The path of a page below its site, with the query by which the site tells its pages apart."""
    parts = url.split(address)
    path = unquote(parts.path).lstrip("/") if parts else ""
    query = f"?{parts.query}" if parts and parts.query else ""
    return f"{path or 'index.html'}{query}"
