"""The files in a page that a browser saved in one file (MHTML, RFC 2557)."""

from __future__ import annotations

import email
import mimetypes
import re
from collections.abc import Iterator
from contextlib import suppress
from email.errors import CloseBoundaryNotFoundDefect, HeaderParseError
from email.header import decode_header, make_header
from email.message import Message
from urllib.parse import quote, unquote

from msgspec import Struct

from newburrow.core import url
from newburrow.intake.web_names import PAGES

_BY_IDENTITY = re.compile(rb"cid:([^\s\"'<>()]+)")
_OF_WEB = ("http:", "https:")
_UNFIT = re.compile(r"[^\w.-]+")  # for a file's name


class SavedFile(Struct, frozen=True):
    """A file of a saved page: the page itself, a picture, a style, a frame."""

    address: str  # that it had on the web; empty where it had none
    beside: str  # of one without an address: its path from the page
    media_type: str
    charset: str
    data: bytes


class SavedPage(Struct, frozen=True):
    """What is in a saved page."""

    files: list[SavedFile]  # the page first; none where there is no page
    is_cut_off: bool


class _PagePlace(Struct, frozen=True):
    """Where a page lay."""

    address: str  # empty where it was no page of the web
    folder: str  # what its own location has before its name
    stem: str


def read(data: bytes, stem: str) -> SavedPage:
    """All files of a saved page (RFC 2557 section 3; the page is found as in RFC 2387 section 3.2).

    `stem` is the name of the saved page without its extension, for names of files that have none. What the page calls
    by identity (`cid:`, RFC 2392) it calls by address, or by a path from itself.
    """
    message = email.message_from_bytes(data)
    parts = [part for part in message.walk() if not part.is_multipart()]
    root = _root(message, parts)
    if root is None:
        return SavedPage([], False)
    base = _address(root, "Content-Location", "") or _address(message, "Snapshot-Content-Location", "")  # fmt: skip
    location = _header(root, "Content-Location")
    place = _PagePlace(base, location.rpartition("/")[0] + "/", _UNFIT.sub("-", stem))
    others = [_saved(part, place) for part in parts if part is not root]
    named = dict(_named(parts, root, others))
    page = _saved(root, place)
    whole = _BY_IDENTITY.sub(lambda found: named.get(found[1], found[0]), page.data)
    files = [SavedFile(base, "", page.media_type, page.charset, whole), *others]
    is_cut_off = any(
        isinstance(defect, CloseBoundaryNotFoundDefect) for defect in message.defects
    )
    return SavedPage(files, is_cut_off)


def _root(message: Message, parts: list[Message]) -> Message | None:
    start = str(message.get_param("start") or "")
    pages = [part for part in parts if part.get_content_type() in PAGES]
    named = (part for part in pages if start and _header(part, "Content-ID") == start)
    return next(named, next(iter(pages), None))


def _named(
    parts: list[Message], root: Message, others: list[SavedFile]
) -> Iterator[tuple[bytes, bytes]]:
    """Each identity, as it stands in a page, with the address or the path that stands for it."""
    for part, file in zip((part for part in parts if part is not root), others, strict=True):
        if identity := _identity(part):
            target = (file.address or file.beside).encode()
            yield identity.encode("utf-8", "replace"), target
            yield quote(identity).encode(), target


def _identity(part: Message) -> str:
    return _header(part, "Content-ID").strip("<>")


def _saved(part: Message, place: _PagePlace) -> SavedFile:
    media_type = part.get_content_type()
    address, beside = _address(part, "Content-Location", place.address), ""
    if not address:
        beside = _beside(part, place, media_type)
        if place.address:  # an address that it would have, so that it is found by it
            address = url.resolve(place.address, quote(beside))
    payload = part.get_payload(decode=True)
    return SavedFile(
        address,
        beside,
        media_type,
        part.get_content_charset() or "",
        payload if isinstance(payload, bytes) else b"",
    )


def _beside(part: Message, place: _PagePlace, media_type: str) -> str:
    """The path from the page to a file that has no address."""
    location = _header(part, "Content-Location")
    if location.startswith(place.folder) and location != place.folder:
        return unquote(location[len(place.folder) :])
    name = _UNFIT.sub("-", _identity(part) or location) or "file"
    return f"{place.stem}-files/{name}{mimetypes.guess_extension(media_type) or ''}"


def _address(part: Message, name: str, base: str) -> str:
    """The address in a header (RFC 2557 section 4), also a relative one; empty for one that is not of the web."""
    address = _header(part, name)
    if address and base:
        address = url.resolve(base, address)
    if address.startswith(_OF_WEB):
        return address
    return ""


def _header(part: Message, name: str) -> str:
    """A header in plain words; a long address is folded, and spaces within it mean nothing (section 4.4.1)."""
    text = str(part.get(name, "")).strip()
    with suppress(HeaderParseError, LookupError, UnicodeError, ValueError):
        text = str(make_header(decode_header(text)))
    return "".join(text.split())
