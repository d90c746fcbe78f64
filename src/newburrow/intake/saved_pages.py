"""Pages that a browser saved in one file each, as the files that are in them."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable, Iterator
from email.utils import parsedate_to_datetime
from typing import BinaryIO, cast

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import url
from newburrow.core.problem import BurrowError
from newburrow.intake import mhtml
from newburrow.intake.budget import Budget
from newburrow.intake.held_file import HeldFile, HeldView
from newburrow.intake.mhtml import SavedFile
from newburrow.intake.part import UNREADABLE, Contents, LeftOut, Part, numbered_name
from newburrow.intake.web_names import PAGES, name_of
from newburrow.intake.whole_text import whole_text

_ENDINGS = (".mhtml", ".mht")
_START = 4096  # bytes in which the headers of the whole are looked for
_RELATED = re.compile(rb"^content-type:\s*multipart/related\b", re.IGNORECASE | re.MULTILINE)
_DATE = re.compile(rb"^date:\s*([^\r\n]+)", re.IGNORECASE | re.MULTILINE)


class _Kept(Struct, frozen=True):
    """A file that lies in the one that holds them all: offset and size in bytes."""

    name: str
    label: str
    address: str
    charset: str
    offset: int
    size: int


def opened(contents: Contents, budget: Budget) -> Contents:
    """The same, with the files of each saved page in its place, each under the path of its address.

    What several pages show is there once, and of a page that was saved several times the latest. Raises BurrowError
    where they cost more than the budget.
    """
    saved = {part.name: begun for part in contents.parts if (begun := _beginning(part))}
    if not saved:
        return contents
    pages = _Pages(budget)
    parts = sorted(contents.parts, key=lambda part: _date(saved.get(part.name, b"")))
    others = [part for part in parts if part.name not in saved or not pages.add(part)]
    seen = dict.fromkeys([part.name for part in others], 1)
    found = [replace(part, name=numbered_name(part.name, seen)) for part in pages.parts()]
    return Contents(
        tuple(sorted([*others, *found], key=lambda part: part.name)),
        (*contents.left_out, *pages.left_out),
        contents.answers,
        (*contents.united, *saved),
    )


def _beginning(part: Part) -> bytes:
    """The headers of a saved page; empty for any other file."""
    if not part.name.lower().endswith(_ENDINGS):
        return b""
    try:
        with part.open() as stream:
            start = stream.read(_START)
    except BurrowError:  # said where it is read as a file
        return b""
    if _RELATED.search(start):
        return start
    return b""


def _date(start: bytes) -> float:
    """When a page was saved, in seconds; 0 where it does not say."""
    found = _DATE.search(start)
    try:
        if found:
            return parsedate_to_datetime(found[1].decode("ascii")).timestamp()
        return 0.0
    except (ValueError, OverflowError):
        return 0.0


class _Pages:
    """The files of saved pages, unpacked into one file on disk."""

    def __init__(self, budget: Budget) -> None:
        self.left_out: list[LeftOut] = []
        self._budget = budget
        self._held = HeldFile(cast(BinaryIO, tempfile.TemporaryFile()))  # noqa: SIM115 (it closes it)
        self._end = 0
        self._pages: dict[str, _Kept] = {}  # by address, or by the name of the saved page
        self._shown: dict[str, _Kept] = {}  # pictures and other files, by address

    def add(self, part: Part) -> bool:
        """Unpack a saved page; False where there is none in it, or it is too large or damaged."""
        try:
            with part.open() as stream:
                data = whole_text(stream, part.label, "page")
        except BurrowError as error:
            if error.problem.code not in (*UNREADABLE, "too-large-text"):
                raise
            return False
        saved = mhtml.read(data, _stem(part))
        if not saved.files:
            return False
        page, *others = saved.files
        kept = self._kept(page, _page_name(page, part), part)
        key = url.key(page.address) or part.name
        if older := self._pages.get(key):
            reason = "is an older copy of a page that is read"
            self.left_out.append(LeftOut(older.label, older.label, reason))
        self._pages[key] = kept
        if saved.is_cut_off:
            reason = "was cut off; the beginning of it is read"
            self.left_out.append(LeftOut(f"the end of {part.name}", part.label, reason))
        folder = kept.name.rpartition("/")[0]
        for file in others:
            self._add_shown(file, folder, part)
        return True

    def _add_shown(self, file: SavedFile, folder: str, part: Part) -> None:
        if file.media_type in PAGES:
            name = f"{file.address or file.beside} in {part.name}"
            self.left_out.append(LeftOut(name, part.label, "is a frame within the page"))
            return
        if file.address:
            name = name_of(file.address, file.media_type)
        else:
            name = f"{folder}/{file.beside}".lstrip("/")
        key = url.key(file.address) or name
        if key not in self._shown:
            self._shown[key] = self._kept(file, name, part)

    def _kept(self, file: SavedFile, name: str, part: Part) -> _Kept:
        self._budget.file(part.label)
        self._held.file.seek(self._end)
        self._held.file.write(file.data)
        offset, size = self._end, len(file.data)
        self._end += size
        return _Kept(name, f"{name} in {part.label}", file.address, file.charset, offset, size)

    def parts(self) -> Iterator[Part]:
        """All files that were unpacked."""
        for kept in (*self._pages.values(), *self._shown.values()):
            yield Part(
                kept.name,
                kept.size,
                kept.label,
                _opener(self._held, kept),
                meter=self._budget.meter(kept.label),
                address=kept.address,
                charset=kept.charset,
            )


def _page_name(page: SavedFile, part: Part) -> str:
    """The path of the address of a page; of one without an address that of its file."""
    if page.address:
        return name_of(page.address, page.media_type)
    return f"{part.name.rpartition('/')[0]}/{_stem(part)}.html".lstrip("/")


def _stem(part: Part) -> str:
    return part.name.rpartition("/")[2].rpartition(".")[0]


def _opener(held: HeldFile, kept: _Kept) -> Callable[[], BinaryIO]:
    def opener() -> BinaryIO:
        return cast(BinaryIO, HeldView(held, kept.offset, kept.offset + kept.size))

    return opener
