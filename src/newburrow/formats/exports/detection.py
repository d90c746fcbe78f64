"""From the paths handed in to records: which parts hold content, in which format and dialect.

All other files of the export are media. Each is tied to the media record that names it, or becomes a
record of its own, so that every file of the export is accounted for.
"""

from __future__ import annotations

import hashlib
import mimetypes
import posixpath
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any, BinaryIO

import msgspec
from msgspec import Struct

from newburrow.core import plugins, url
from newburrow.core.problem import BurrowError, Problem, refusal
from newburrow.core.progress import Event, Listener, nobody
from newburrow.core.suggestions import suggest
from newburrow.dialects import loader
from newburrow.dialects.file_pattern import matches_file
from newburrow.dialects.schema import Dialect
from newburrow.formats.base import Input
from newburrow.formats.exports.nothing_read import nothing_read
from newburrow.intake import archives, bags
from newburrow.intake.encodings import TextEncoding, as_utf8, encoding_named, guessed_encoding
from newburrow.intake.excerpt import with_excerpt
from newburrow.intake.head import Head, head_of
from newburrow.intake.opening import Source, open_source
from newburrow.intake.part import Part
from newburrow.model import Media, Site, Where
from newburrow.model.reading import Item, Mention

# stands for the address of a site if the export has none
UNKNOWN_SITE = "https://old-site.example/"
_NOT_SAID = {"address": ["the export does not state it"]}
_DEEPEST = 4  # archives within archives


class Piece(Struct, frozen=True):
    """A part that holds content, and how to read it."""

    part: Part
    format: str
    dialect: Dialect
    root: str = ""  # name of the root element, where the part is XML
    encoding: TextEncoding | None = None  # that the file is in; None for UTF-8


@dataclass(frozen=True)
class Export:
    """One source, looked through: the parts that hold content, and the files beside them."""

    source: Source
    pieces: tuple[Piece, ...]
    files: dict[str, Part]  # by name in the source
    asked: str = ""  # name or file of the dialect that was asked for
    dialects_kept: tuple[Dialect, ...] = ()  # in a bag, with the content
    beside: list[Source] = field(default_factory=list)  # further sources that only hold files
    # names of the files that a record names or a reader has opened; filled while the export is read
    used: set[str] = field(default_factory=set)

    @cached_property
    def _folders(self) -> list[str]:
        """The folders of the parts that name files."""
        return sorted({piece.part.name.rpartition("/")[0] for piece in self.pieces})

    @cached_property
    def _by_name(self) -> dict[str, list[str]]:
        """The files of further sources by their last name."""
        found: dict[str, list[str]] = {}
        for name in self.files if self.beside else ():
            found.setdefault(name.rpartition("/")[2], []).append(name)
        return found

    def opener_for(self, part: Part) -> Callable[[str], BinaryIO | None]:
        """What opens the files of this source that a part names, and notes that they are used.

        A name is relative to the part, or else to the source. Only files of the source can be named:
        `..` leads to a folder above and never out of it.
        """
        folder = posixpath.dirname(part.name)

        def opened(name: str) -> BinaryIO | None:
            for path in (posixpath.join(folder, name), name.lstrip("/")):
                found = self._all_parts.get(posixpath.normpath(path))
                if found:
                    self.used.add(found.name)
                    return found.open()
            return None

        return opened

    @cached_property
    def _all_parts(self) -> dict[str, Part]:
        return {**self.files, **{piece.part.name: piece.part for piece in self.pieces}}

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
            for name in self._by_name.get(path.rpartition("/")[2], ())
            if name.endswith(f"/{path}") or path.endswith("/" + name.partition("/")[2])
        ]
        if named:
            return self.files[named[0]]
        return None


def examine(path: Path, dialect_name: str = "", needed: bool = True) -> Export:
    """Open a source and find what is in it.

    Raises BurrowError where no reader knows any part of it, unless content is not needed: then it may be files alone.
    """
    source = open_source(path)
    if dialect_name:
        chosen = loader.load(dialect_name)
    else:
        chosen = None
    pieces: list[Piece] = []
    files: dict[str, Part] = {}
    for part in bags.payload(source.parts):
        _sort(part, chosen, pieces, files, _DEEPEST)
    if not pieces:
        error = nothing_read(source.path, source.parts, chosen)
        if needed or error.problem.code != "no-export":
            raise error
    _more_pieces(pieces, files)
    dialects_kept = [
        dialect
        for name in plugins.names(plugins.FORMATS)
        for dialect in plugins.get(plugins.FORMATS, name).kept_dialects(files)
    ]
    return Export(source, tuple(pieces), files, dialect_name, tuple(dialects_kept))


def _sort(
    part: Part, chosen: Dialect | None, pieces: list[Piece], files: dict[str, Part], depth: int
) -> None:
    """Put a part among the pieces or the files; an archive that holds pieces is taken apart, any other is a file."""
    head = head_of(part)
    piece = _piece(head, chosen)
    if piece:
        pieces.append(piece)
        return
    kind = archives.kind_of(head.start)
    if kind and depth:
        inner = list(archives.unpacked(part, kind))
    else:
        inner = []
    if inner and not archives.is_document(inner):
        found: list[Piece] = []
        beside: dict[str, Part] = {}
        for inner_part in inner:
            within = msgspec.structs.replace(inner_part, name=f"{part.name}/{inner_part.name}")
            _sort(within, chosen, found, beside, depth - 1)
        if found:
            pieces += found
            files.update(beside)
            return
    files[part.name] = part


def _piece(head: Head, chosen: Dialect | None) -> Piece | None:
    """How a part is read; None for one that holds no content that anything here knows."""
    part = head.text
    fitting = [
        format_
        for name in plugins.names(plugins.FORMATS)
        if (format_ := plugins.get(plugins.FORMATS, name)).reads and format_.recognise(head)
    ]
    if chosen:
        return _as_chosen(head, chosen, fitting)
    candidates = [
        (format_, dialect)
        for format_ in fitting
        for dialect in loader.recognise(format_.name, head)
    ]
    if not candidates:
        candidates = [
            (format_, format_.plain()) for format_ in fitting if not format_.needs_dialect
        ]
    if len(candidates) > 1:
        named = ", ".join(
            f"{format_.title} ({dialect.title or dialect.name})"
            for format_, dialect in candidates
        )
        raise refusal(
            "ambiguous",
            f"Several readers can read this file: {named}.",
            f"Say which it is: --dialect {' or --dialect '.join(dialect.name for _format, dialect in candidates)}.",
            Where(part.label),
        )
    if candidates:
        return _read_as(head, candidates[0][0].name, candidates[0][1])
    return None


def _read_as(head: Head, format_name: str, dialect: Dialect) -> Piece:
    """A part in a format and dialect, as UTF-8; the encoding of a text that declares none is guessed."""
    if head.prolog or head.encoding:
        root = head.prolog.root if head.prolog else ""
        return Piece(head.text, format_name, dialect, root, head.encoding)
    encoding = guessed_encoding(head.text)
    if encoding is None:
        return Piece(head.text, format_name, dialect)
    if dialect.encoding:
        encoding = TextEncoding(encoding_named(dialect.encoding))
    return Piece(as_utf8(head.text, encoding), format_name, dialect, "", encoding)


def _as_chosen(head: Head, chosen: Dialect, fitting: list[Any]) -> Piece | None:
    """A part in the dialect that the administrator names, also in another format that this has records of."""
    part = head.text
    formats = {chosen.format, *(record.format for record in chosen.records if record.format)}
    for format_ in fitting:
        if format_.name in formats and (
            not chosen.records or _has_map(chosen, part.name, format_.name)
        ):
            return _read_as(head, format_.name, chosen)
    known = [format_ for format_ in fitting if not format_.needs_dialect]
    if known and known[0].name not in formats:
        raise refusal(
            "wrong-dialect",
            f"The dialect {chosen.name!r} is for {chosen.format}, and this is {known[0].name}.",
            suggest(known[0].name, loader.DIALECTS.names(), "The dialects are"),
            Where(part.label),
        )
    return None


def _has_map(dialect: Dialect, name: str, format_name: str) -> bool:
    return any(
        (record.format or dialect.format) == format_name and matches_file(name, record.file)
        for record in dialect.records
    )


def _more_pieces(pieces: list[Piece], files: dict[str, Part]) -> None:
    """Files in another format that the dialect of a piece has records of: comments beside the texts, ..."""
    for dialect in {piece.dialect.name: piece.dialect for piece in pieces}.values():
        formats = {
            record.format
            for record in dialect.records
            if record.format and record.format != dialect.format
        }
        for name, part in list(files.items()) if formats else ():
            head = head_of(part)
            for format_name in sorted(formats):
                format_ = plugins.get(plugins.FORMATS, format_name)
                if _has_map(dialect, name, format_name) and format_.recognise(head):
                    pieces.append(_read_as(head, format_name, dialect))
                    del files[name]
                    break


def records(
    export: Export, listener: Listener = nobody, unknown: str = UNKNOWN_SITE
) -> Iterator[Item | Problem]:
    """All records of a source: those of its parts in order of name, then the files that none of them names.

    `unknown` is the address that stands for that of a site of which the export says none.
    """
    progress = Progress(listener)
    site = site_first(export, unknown)
    if site:
        yield site
    for piece in export.pieces:
        yield from with_files(export, piece, read_piece(export, piece, site, progress))
        progress.next_part()
    yield from other_files(export)


def with_files(
    export: Export, piece: Piece, found: Iterator[Item | Problem]
) -> Iterator[Item | Problem]:
    """The records of a piece, each file's record with the facts of the file that it names.

    A file in the export gives its path, size and digest, and is then counted as used. A record whose file is
    not in the export stays as it is. A site gets the name of the piece's dialect.
    """
    for record in found:
        if isinstance(record, Site) and not record.dialect:
            record = msgspec.structs.replace(record, dialect=piece.dialect.name)
        elif isinstance(record, Media):
            record = _with_file(export, record)
        elif isinstance(record, Mention) and isinstance(record.record, Media):
            record = Mention(_with_file(export, record.record))
        yield record


def other_files(export: Export) -> Iterator[Media]:
    """The files that no record names and no reader has opened."""
    for name, part in export.files.items():
        if name not in export.used:
            yield _described(Media(key=f"file:{name}", source=Where(part.label)), part)


class Progress:
    """Entries read so far, over all parts."""

    def __init__(self, listener: Listener) -> None:
        self.listener, self.before, self.here = listener, 0, 0

    def __call__(self, entries: int) -> None:
        """Tell how many entries of this part were read."""
        self.here = entries
        if (self.before + entries) % 50 == 0:
            self.listener(Event("Reading the export", self.before + entries))

    def next_part(self) -> None:
        """Go on with the next part."""
        self.before, self.here = self.before + self.here, 0


def site_first(export: Export, unknown: str) -> Site | None:
    """The site as plain records say it: their addresses are relative to it, wherever in the export it is."""
    with_maps = [piece for piece in export.pieces if piece.dialect.records]
    for piece in with_maps:
        maps = [record for record in piece.dialect.records if record.of == "site"]
        if maps:
            only = msgspec.structs.replace(piece.dialect, records=maps)
            for record in read_piece(
                export,
                msgspec.structs.replace(piece, dialect=only),
                None,
                lambda _entries: None,
            ):
                if isinstance(record, Site):
                    named = msgspec.structs.replace(record, dialect=piece.dialect.name)
                    if named.address:
                        return named
                    return msgspec.structs.replace(named, address=unknown, extra=_NOT_SAID)
    if not with_maps:
        return None
    return Site(key="site", address=unknown, extra=_NOT_SAID, dialect=with_maps[0].dialect.name)


def read_piece(
    export: Export, piece: Piece, site: Site | None, progress: Callable[[int], None]
) -> Iterator[Item | Problem]:
    """The records of one part.

    `site` is the site of the export, if it is known before: it is then not yielded again. `progress` gets the
    number of entries read so far. Raises BurrowError, with an excerpt of the line, if the part is not
    well-formed.
    """
    if site:
        base, zone = (site.address, site.zone)
    else:
        base, zone = ("", "")
    format_: Any = plugins.get(plugins.FORMATS, piece.format)
    dialect = piece.dialect
    yield from _encoding_doubts(piece)
    with piece.part.open() as stream:
        source = Input(
            piece.part.label,
            stream,
            dialect,
            piece.root,
            piece.part.name,
            base,
            zone,
            progress=progress,
            sibling=export.opener_for(piece.part),
        )
        try:
            # The site was given before, because what follows it depends on its address.
            yield from (
                item
                for item in format_.read(source)
                if site is None or not isinstance(item, Site)
            )
        except BurrowError as error:
            raise BurrowError(with_excerpt(error.problem, piece.part)) from None


def _encoding_doubts(piece: Piece) -> Iterator[Problem]:
    """What a person should check of the encoding in which a file is read."""
    encoding, where = piece.encoding, Where(piece.part.label)
    if encoding and encoding.guessed:
        yield Problem.at(
            where, "encoding-guessed", file=piece.part.label, encoding=encoding.name
        )
    if encoding and encoding.declared:
        yield Problem.at(
            where,
            "encoding-misstated",
            file=piece.part.label,
            declared=encoding.declared,
            encoding=encoding.name,
        )


def _with_file(export: Export, media: Media) -> Media:
    part = export.part_named(media.path or url.path_of(media.address))
    if part is None:
        if media.path:
            extra = {**media.extra, "path": [media.path]}
        else:
            extra = media.extra
        return msgspec.structs.replace(media, path="", extra=extra)
    export.used.add(part.name)
    return _described(media, part)


def _described(media: Media, part: Part) -> Media:
    """The record with what the file itself says: size, digest, media type."""
    digest, size = hashlib.sha256(), 0
    with part.open() as stream:
        while block := stream.read(1 << 18):
            digest.update(block)
            size += len(block)
    media_type = (
        media.media_type or mimetypes.guess_type(part.name)[0] or "application/octet-stream"
    )
    return msgspec.structs.replace(
        media, path=part.name, size=size, digest=digest.hexdigest(), media_type=media_type
    )
