"""From the paths handed in to records: which parts hold content, in which format and dialect.

All other files of the export are media. Each is tied to the media record that names it, or becomes a
record of its own, so that every file of the export is accounted for.
"""

from __future__ import annotations

import hashlib
import mimetypes
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec
from lxml import etree
from msgspec import Struct

from newburrow import registry
from newburrow.dialects import loader
from newburrow.dialects.draft import draft
from newburrow.events import Event, Listener, nobody
from newburrow.formats.base import Input
from newburrow.formats.dialect import Dialect
from newburrow.intake import archives
from newburrow.intake.excerpt import excerpt
from newburrow.intake.opening import Source, open_source
from newburrow.intake.part import Head, Part
from newburrow.intake.xmlerrors import not_well_formed
from newburrow.model import Media, Record, Where
from newburrow.problem import BurrowError, Problem, Severity, stop, suggest

_DEEPEST = 4  # archives within archives


class Piece(Struct, frozen=True):
    """A part that holds content, and how to read it."""

    part: Part
    format: str
    dialect: Dialect
    root: str = ""  # name of the root element, where the part is XML


class Export(Struct, frozen=True):
    """One source, looked through: the parts that hold content, and the files beside them."""

    source: Source
    pieces: tuple[Piece, ...]
    files: dict[str, Part]  # by name in the source

    def part_named(self, path: str) -> Part | None:
        """The file that an export names by a path: relative to the source or to the part that names it."""
        path = path.strip().lstrip("/").removeprefix("./")
        if path in self.files:
            return self.files[path]
        folders = {piece.part.name.rpartition("/")[0] for piece in self.pieces}
        return next(
            (self.files[f"{folder}/{path}"] for folder in sorted(folders) if f"{folder}/{path}" in self.files), None
        )


def examine(path: Path, dialect_name: str = "") -> Export:
    """Open a source and find what is in it. Raises BurrowError where no reader knows any part of it."""
    source = open_source(path)
    chosen = loader.load(dialect_name) if dialect_name else None
    pieces: list[Piece] = []
    files: dict[str, Part] = {}
    for part in source.parts:
        _sort(part, chosen, pieces, files, _DEEPEST)
    if not pieces:
        raise _nothing_in(source)
    return Export(source, tuple(pieces), files)


def _sort(part: Part, chosen: Dialect | None, pieces: list[Piece], files: dict[str, Part], depth: int) -> None:
    """Put a part among the pieces or the files; an archive that holds pieces is taken apart, any other is a file."""
    head = part.head()
    piece = _piece(part, head, chosen)
    if piece:
        pieces.append(piece)
        return
    kind = archives.kind_of(head.start)
    inner = list(archives.unpacked(part, kind)) if kind and depth else []
    if inner and not archives.is_document(inner):
        found: list[Piece] = []
        beside: dict[str, Part] = {}
        for one in inner:
            within = msgspec.structs.replace(one, name=f"{part.name}/{one.name}")
            _sort(within, chosen, found, beside, depth - 1)
        if found:
            pieces += found
            files.update(beside)
            return
    files[part.name] = part


def _piece(part: Part, head: Head, chosen: Dialect | None) -> Piece | None:
    formats = [(name, registry.get(registry.FORMATS, name)) for name in registry.names(registry.FORMATS)]
    for name, format_ in formats:
        if format_.reads and format_.recognise(head):
            if chosen and chosen.format != name:
                raise stop(
                    "wrong-dialect",
                    f"The dialect {chosen.name!r} is for {chosen.format}, and this is {name}.",
                    suggest(name, loader.SHELF.names(), "The dialects are"),
                    Where(part.label),
                )
            root = head.prolog.root if head.prolog else ""
            return Piece(part, name, chosen or loader.recognise(name, head), root)
    return None


def _nothing_in(source: Source) -> BurrowError:
    readable = ", ".join(
        registry.get(registry.FORMATS, name).title
        for name in registry.names(registry.FORMATS)
        if registry.get(registry.FORMATS, name).reads
    )
    broken = next((part for part in source.parts if part.name.lower().endswith((".xml", ".rss"))), None)
    if broken:
        problem = _why_unread(broken)
        if problem:
            return BurrowError(problem)
    what = f"None of its {len(source.parts)} files is an export" if len(source.parts) != 1 else "It is no export"
    return stop(
        "no-export",
        f"{what} that New Burrow can read ({readable}).",
        "Hand in the file, folder or zip that the old host's export gave you.",
        Where(str(source.path)),
    )


def _why_unread(part: Part) -> Problem | None:
    """What is wrong with a file that calls itself XML and that no reader knows."""
    with part.open() as stream:
        try:
            for _event, root in etree.iterparse(
                stream, events=("start",), resolve_entities=False, no_network=True, load_dtd=False
            ):
                name = etree.QName(root.tag).localname
                return Problem(
                    Severity.FATAL,
                    "no-export",
                    f"This is XML, but its root element {name!r} is not that of an export that New Burrow can read.",
                    "Hand in another file.",
                    Where(part.label),
                )
        except etree.XMLSyntaxError as error:
            return _with_excerpt(not_well_formed(error, part.label).problem, part)
    return None


def draft_dialect(path: Path) -> str:
    """The text of a first dialect for the feed at a path. Raises BurrowError where there is none."""
    export = examine(path)
    piece = next((one for one in export.pieces if one.root), None)
    if piece is None:
        raise stop("no-feed", "A dialect can be drafted from RSS and Atom only.", "", Where(str(path)))
    try:
        with piece.part.open() as stream:
            return draft(stream, piece.format)
    except etree.XMLSyntaxError as error:
        raise BurrowError(_with_excerpt(not_well_formed(error, piece.part.label).problem, piece.part)) from None


def records(export: Export, listener: Listener = nobody) -> Iterator[Record | Problem]:
    """All records of a source: those of its parts in order of name, then the files that none of them names."""
    used: set[str] = set()
    for piece in export.pieces:
        for record in _read(piece, listener):
            if isinstance(record, Media):
                record = _with_file(export, record, used)
            yield record
    for name, part in export.files.items():
        if name not in used:
            yield _described(Media(key=f"file:{name}", source=Where(part.label)), part)


def _read(piece: Piece, listener: Listener) -> Iterator[Record | Problem]:
    with piece.part.open() as stream:

        def progress(entries: int) -> None:
            if entries % 50 == 0:
                listener(Event("Reading the export", entries))

        format_: Any = registry.get(registry.FORMATS, piece.format)
        try:
            yield from format_.read(Input(piece.part.label, stream, piece.dialect, piece.root, progress))
        except BurrowError as error:
            raise BurrowError(_with_excerpt(error.problem, piece.part)) from None


def _with_excerpt(problem: Problem, part: Part) -> Problem:
    """The problem with the line in question, where it is about one."""
    if not problem.where.line or problem.excerpt:
        return problem
    return msgspec.structs.replace(problem, excerpt=excerpt(part, problem.where.line, problem.where.column))


def _with_file(export: Export, media: Media, used: set[str]) -> Media:
    part = export.part_named(media.path) if media.path else None
    if part is None:
        extra = {**media.extra, "path": [media.path]} if media.path else media.extra
        return msgspec.structs.replace(media, path="", extra=extra)
    used.add(part.name)
    return _described(media, part)


def _described(media: Media, part: Part) -> Media:
    """The record with what the file itself says: size, digest, media type."""
    digest, size = hashlib.sha256(), 0
    with part.open() as stream:
        while block := stream.read(1 << 18):
            digest.update(block)
            size += len(block)
    media_type = media.media_type or mimetypes.guess_type(part.name)[0] or "application/octet-stream"
    return msgspec.structs.replace(media, path=part.name, size=size, digest=digest.hexdigest(), media_type=media_type)
