"""What was handed in, as it is read: the request, each source looked through, and its parts with content."""

from __future__ import annotations

import posixpath
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, BinaryIO
from urllib.parse import quote, unquote

from msgspec import Struct

from newburrow.core import mirrored, url, url_pattern
from newburrow.core.problem import Problem
from newburrow.dialects.schema import Dialect
from newburrow.formats.exports.file_counts import FileCounts
from newburrow.formats.exports.piece import Piece
from newburrow.intake.budget import ReadingLimits
from newburrow.intake.head import HEAD
from newburrow.intake.part import LeftOut, Part
from newburrow.intake.source import Source
from newburrow.intake.web_answer import WebAnswer
from newburrow.model.reading import KnownPage

if TYPE_CHECKING:
    from newburrow.formats.exports.site_index import SiteIndex

_OF_PATTERNS = "/{+}"  # signs of a permalink pattern (RFC 6570)
# Names of folders that programs write a site into.
_BUILT = frozenset(
    (
        "html",
        "site",
        "_site",
        "public",
        "build",
        "dist",
        "output",
        "out",
        "export",
        "www",
        "htdocs",
    )
)


class ExportRequest(Struct, frozen=True):
    """The exports to read, and what a person says of them."""

    paths: Sequence[Path]
    # names or files: none recognises all, one is for all paths, several are for each path in order ("" recognises)
    dialects: Sequence[str] = ()
    site: str = ""  # address of the old site, for exports that do not state it
    content: Sequence[
        str
    ] = ()  # patterns of files that are content, though they lie among uploaded files
    limits: ReadingLimits = ReadingLimits()

    @property
    def site_address(self) -> str:
        """The address of the old site with the slash that its front page has (RFC 3986 section 6.2.3)."""
        if self.site and not url.path_of(self.site):
            return url.resolve(self.site, "/")
        return self.site


NO_REQUEST = ExportRequest(())


class Seen(Struct):
    """What was seen of an export among several."""

    first: int = 0  # number of the first export of the same site
    newest: datetime | None = None  # when its newest entry was published or changed
    written: datetime | None = None  # when it was written, where it says so


def _nothing_known(*_addresses: str) -> None:
    """What is known of pages where the source has no feeds and sitemaps."""


@dataclass(frozen=True)
class Export:
    """One source, looked through: the parts that hold content, and the files beside them."""

    source: Source
    pieces: tuple[Piece, ...]
    files: dict[str, Part]  # by name in the source
    asked: str = ""  # name or file of the dialect that was asked for
    dialects_kept: tuple[Dialect, ...] = ()  # in a bag, with the content
    unpacked: tuple[
        str, ...
    ] = ()  # names of archives within the source whose files are files of the site
    problems: list[Problem] = field(default_factory=list)  # met while it was looked through
    request: ExportRequest = NO_REQUEST  # as part of which it was opened
    left_out: tuple[LeftOut, ...] = ()  # files that are listed and not read
    tags: int = 0  # files that tell of the others: of a bag, or dialects kept with the content
    listed: int = 0  # files that the source and the archives in it list
    unpacked_archives: int = 0  # archives within the source whose files stand for them
    index: tuple[Part, ...] = ()  # feeds and sitemaps of a site that is read as pages
    # the folder around it, where another process has found it; None: to be found
    top_folder: str | None = None
    site_index: SiteIndex | None = None  # what these say
    # of web archives: addresses that are redirected or gone
    answers: tuple[WebAnswer, ...] = ()
    beside: list[Export] = field(default_factory=list)  # further sources that only hold files
    # names of the files that a record names or a reader has opened; filled while the export is read
    used: set[str] = field(default_factory=set)
    siblings: set[str] = field(default_factory=set)  # those of them that a reader has opened
    # which of several exports of one site is how new; filled while they are read
    seen: Seen = field(default_factory=Seen)

    @property
    def site(self) -> str:
        """Address of the old site, if the export does not state it."""
        return self.request.site_address

    @property
    def known_page(self) -> Callable[..., KnownPage | None]:
        """What feeds and sitemaps say of the page at one of these addresses."""
        if self.site_index:
            return self.site_index.page
        return _nothing_known

    @cached_property
    def indexed_site(self) -> str:
        """The address of the site by those that feeds and sitemaps name; empty where they do not show it."""
        if self.site_index is None:
            return ""
        return self.site_index.site_of(self.place_of(piece.part) for piece in self.pieces)

    @cached_property
    def top(self) -> str:
        """The folder around the whole source, where its name shows that it is no part of the site; else empty.

        It is one that the archive is named for, a host, or a word for what a program has built.
        """
        if self.top_folder is not None:
            return self.top_folder
        names = [*self.files, *(piece.part.name for piece in self.pieces)]
        tops = {name.partition("/")[0] if "/" in name else "" for name in names}
        top = next(iter(tops), "")
        if len(tops) != 1 or not top:
            return ""
        named = self.source.path.name.lower().startswith(top.lower()) or "." in top.strip(".")
        if named or top.lower() in _BUILT:
            return top
        return ""

    @cached_property
    def _folders(self) -> list[str]:
        """The folders of the parts that name files."""
        return sorted({piece.part.name.rpartition("/")[0] for piece in self.pieces})

    @cached_property
    def _by_name(self) -> dict[str, list[tuple[str, str]]]:
        """The files of further sources and of archives: last name -> path there, name here."""
        found: dict[str, list[tuple[str, str]]] = {}
        holders = [f"{archive}/" for archive in self.unpacked]
        for name in self.files if self.beside or holders else ():
            within = max(
                (holder for holder in holders if name.startswith(holder)), key=len, default=""
            )
            if within:
                path = name.removeprefix(within)
            else:
                path = name.partition("/")[2] or name
            found.setdefault(name.rpartition("/")[2], []).append((path, name))
        return found

    def place_of(self, part: Part) -> str:
        """The path of a part below the site."""
        if part.address:
            return mirrored.place_of(part.address)
        if self.top:
            return part.name.removeprefix(f"{self.top}/")
        return part.name

    def page_with(self, name: str) -> str:
        """The name of the page that a file is on, where the dialect says how the files of a page are called."""
        # Encoded, since a pattern is one of addresses, and names of files hold `#` and `?`.
        path = quote(name)
        for pattern, format_ in self._patterns_of_files:
            if found := url_pattern.matcher(quote(pattern, safe=_OF_PATTERNS)).fullmatch(path):
                page = unquote(found["page"])
                # In Creole a folder is named like the file of its page: with the signs encoded that it cannot have.
                return unquote(page) if format_ == "creole" else page
        return ""

    @cached_property
    def _patterns_of_files(self) -> list[tuple[str, str]]:
        patterns = dict.fromkeys(
            (piece.dialect.wiki.files, piece.dialect.format) for piece in self.pieces
        )
        return [(pattern, format_) for pattern, format_ in patterns if pattern]

    def opener_for(self, part: Part) -> Callable[[str], BinaryIO | None]:
        """What opens the files of this source that a part names, and notes that they are used.

        A name is relative to the part, or else to the source. Only files of the source can be named:
        `..` leads to a folder above and never out of it.
        """

        def opened(name: str) -> BinaryIO | None:
            found = self._beside(part, name)
            if found is None:
                return None
            self.used.add(found.name)
            self.siblings.add(found.name)
            return found.open()

        return opened

    def knows_beside(self, part: Part) -> Callable[[str], bool]:
        """What says whether this source has a file that a part names, as `opener_for` understands names."""
        return lambda name: self._beside(part, name) is not None

    def start_beside(self, part: Part) -> Callable[[str], bytes]:
        """What gives the first bytes of a file that a part names, without noting it as used."""

        def start(name: str) -> bytes:
            found = self._beside(part, name)
            if found is None:
                return b""
            with found.open() as stream:
                return stream.read(HEAD)

        return start

    def _beside(self, part: Part, name: str) -> Part | None:
        folder = posixpath.dirname(part.name)
        for path in (posixpath.join(folder, name), name.lstrip("/")):
            if found := self._all_parts.get(posixpath.normpath(path)):
                return found
        return None

    @cached_property
    def _all_parts(self) -> dict[str, Part]:
        return {**self.files, **{piece.part.name: piece.part for piece in self.pieces}}

    def file_counts(self) -> FileCounts:
        """What became of the files that the source lists; to be asked when all of it has been read.

        Of sources that only hold files, these are counted with the export that uses them.
        """
        whole = (self, *self.beside)
        siblings = len(self.siblings & self.files.keys())
        left_out = sum(len(export.left_out) for export in whole)
        return FileCounts(
            listed=sum(export.listed for export in whole),
            content=len(self.pieces) + siblings + self.tags,
            media=len(self.files) - siblings,
            archives=sum(export.unpacked_archives for export in whole),
            left_out=left_out,
        )

    def part_named(self, path: str) -> Part | None:
        """The file that an export names by a path: relative to the source or to the part that names it."""
        path = path.strip().lstrip("/").removeprefix("./")
        if not path:
            return None
        if path in self.files:
            return self.files[path]
        named = [
            f"{folder}/{path}" for folder in self._folders if f"{folder}/{path}" in self.files
        ]
        named = named or [
            name
            for there, name in self._by_name.get(path.rpartition("/")[2], ())
            if f"/{there}".endswith(f"/{path}") or path.endswith(f"/{there}")
        ]
        if named:
            return self.files[named[0]]
        return None
