"""Pages that name another page of the site as their original (RFC 6596): print versions, lists in another order."""

from __future__ import annotations

from collections.abc import Iterator
from urllib.parse import unquote

from msgspec.structs import replace

from newburrow.core import url
from newburrow.formats.base import Input
from newburrow.formats.html.document import Document
from newburrow.intake.web_names import name_of
from newburrow.model import COPY_OF, Entry

_HTML = "text/html"


def with_own_address(entry: Entry, document: Document, source: Input) -> Entry:
    """The entry of a page, with its own address where another page of the source stands at the one that it names.

    That one is then in `extra`.
    """
    named = entry.permalink
    own = {url.key(document.address), url.key(document.shown_address)}
    if not named or url.key(named) in own:
        return entry
    names = list(_names(named, document, source))
    if source.name in names or not any(source.has(f"/{name}") for name in names):
        return entry
    return replace(
        entry, permalink=document.shown_address, extra=entry.extra | {COPY_OF: [named]}
    )


def _names(address: str, document: Document, source: Input) -> Iterator[str]:
    """The names that the file of a page at an address can have in the source."""
    if source.address:
        around = source.name.removesuffix(name_of(source.address, _HTML))
        yield around + name_of(address, _HTML)
        return
    parts = url.split(address)
    if parts is None or not address.startswith(document.site):
        return
    path = unquote(address.removeprefix(document.site).partition("#")[0].partition("?")[0])
    top = f"{source.top}/" if source.top else ""
    if parts.query:
        for mark in "?@":
            yield f"{top}{path}{mark}{parts.query}"
            yield f"{top}{path}{mark}{parts.query}.html"
        return
    yield f"{top}{path}"
    for ending in (*url.INDEX_FILES, ".html", ".htm"):
        if path.endswith("/") or not path or ending.startswith("."):
            slash = ""
        else:
            slash = "/"
        yield f"{top}{path}{slash}{ending}"
