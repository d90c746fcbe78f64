"""Addresses with a query that a program saved as a file: its name holds the query (`view.php?id=3.html`).

Where a disk takes no `?` in names, an `@` stands for it.
"""

from __future__ import annotations

import re
from urllib.parse import quote, unquote

from newburrow.core import url

_MARK = re.compile(r"(?:%3f|%40|@)(?=(?:[\w.~\[\]-]|%5[bd])+(?:=|%3d))", re.IGNORECASE)
_ADDED = re.compile(r"\.x?html?\Z", re.IGNORECASE)  # so that the file is shown as a page
# Characters that stay as they are in a query, which is encoded already.
_SAFE = "!$'()*,;:@/?&=+%"


def address_of(address: str) -> str:
    """The address that a file stands for, by the address that the file would have; any other stays as it is.

    In a name of a file the `?` is no mark of a query (RFC 3986 section 3.4), so that it is encoded in its address.
    """
    bare, mark, fragment = address.partition("#")
    folder, slash, name = bare.rpartition("/")
    mirrored = _MARK.search(name)
    if mirrored is None or "?" in bare:  # also none in a question, or in an address of mail
        return address
    query = _ADDED.sub("", unquote(name[mirrored.end() :]))
    program = name[: mirrored.start()]
    return f"{folder}{slash}{program}?{quote(query, safe=_SAFE)}{mark}{fragment}"


def place_of(address: str) -> str:
    """The path of a page below its site, with the query by which the site tells its pages apart."""
    parts = url.split(address)
    path = unquote(parts.path).lstrip("/") if parts else ""
    query = f"?{parts.query}" if parts and parts.query else ""
    return f"{path or 'index.html'}{query}"
