"""What a source holds: which of its parts are content, and in which format and dialect; all others are files."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from msgspec.structs import replace

from newburrow.core import plugins
from newburrow.core.problem import NOWHERE, BurrowError, Problem, refusal
from newburrow.core.suggestions import suggest
from newburrow.dialects import loader
from newburrow.dialects.file_pattern import matches_file
from newburrow.dialects.schema import Dialect
from newburrow.formats.exports.content_choice import Candidates
from newburrow.formats.exports.export import NO_REQUEST, Export, ExportRequest
from newburrow.formats.exports.nothing_read import nothing_read, refuse_saved_page
from newburrow.formats.exports.piece import Piece
from newburrow.formats.exports.site_index import SiteIndex
from newburrow.formats.exports.sorted_parts import SortedParts
from newburrow.intake import bags
from newburrow.intake.encodings import TextEncoding, encoding_named, guessed_encoding
from newburrow.intake.head import Head, as_utf8, head_of
from newburrow.intake.opening import open_source
from newburrow.intake.part import UNREADABLE, Part
from newburrow.intake.replacing import replaced
from newburrow.intake.source import Source
from newburrow.model import Where

_BLOCK = 1 << 20


def examine(
    path: Path,
    dialect_name: str = "",
    needed: bool = True,
    request: ExportRequest = NO_REQUEST,
) -> Export:
    """Open a source and find what is in it.

    `dialect_name` is a name or file, empty to recognise the dialect. Of `request` the address of the site, the
    patterns of further content and the limits are used. Raises BurrowError if no reader knows any part of the
    source, unless content is not needed: then it may be files alone.
    """
    source = open_source(path, request.limits)
    if dialect_name:
        chosen = loader.load(dialect_name)
    else:
        chosen = None
    payload = bags.payload(source.parts)
    found = SortedParts(lambda head: _piece(head, chosen), source.budget)
    found.add_all(payload, looks_into_all=bool(request.content))
    if payload.parts == source.parts:
        found.say_bags(source.parts)
    found.pieces = _in_one_dialect(found.pieces)
    candidates = Candidates(found.pieces, found.files, found.archives)
    found.choose(candidates.content(request.content))
    if not found.pieces:
        if found.refused:
            raise BurrowError(found.refused[0][1])
        error = nothing_read(source, chosen)
        if needed or error.problem.code != "no-export":
            raise error
    if chosen is None:
        refuse_saved_page(source, found.pieces)
    found.place_unpacked()
    found.open_media_archives()
    _more_pieces(found.pieces, found.files)
    found.leave_out_layout()
    index = found.take_index()
    of_bag = len(source.parts) - len(payload.parts) - len(payload.left_out)
    before = len(found.files)
    dialects_kept = [
        dialect
        for name in plugins.names(plugins.FORMATS)
        for dialect in plugins.get(plugins.FORMATS, name).kept_dialects(found.files)
    ]
    return Export(
        source,
        tuple(found.pieces),
        found.files,
        dialect_name,
        tuple(dialects_kept),
        tuple(found.unpacked),
        [
            *(problem for _name, problem in found.said),
            *_missing_namespaces(found.pieces, source),
            *_page_alone(found.pieces),
        ],
        request,
        left_out=(*source.left_out, *found.left_out),
        tags=of_bag + before - len(found.files),
        listed=len(source.parts) + len(source.left_out) + found.listed,
        unpacked_archives=len(found.opened),
        index=tuple(index),
        site_index=SiteIndex(index) if index else None,
        answers=(*source.answers, *found.answers),
    )


def _in_one_dialect(pieces: list[Piece]) -> list[Piece]:
    """The same, where parts that no dialect recognises are in that of others, if it has records for files so named."""
    named = {
        piece.dialect.name: piece.dialect
        for piece in pieces
        if any(rules.file for rules in piece.dialect.records)
    }
    made = []
    for piece in pieces:
        plain = plugins.get(plugins.FORMATS, piece.format).plain() == piece.dialect
        fitting = [
            dialect
            for dialect in (named.values() if plain else ())
            for rules in dialect.records
            if rules.file
            and (rules.format or dialect.format) == piece.format
            and matches_file(piece.part.name, rules.file)
        ]
        made.append(replace(piece, dialect=fitting[0]) if fitting else piece)
    return made


def _missing_namespaces(pieces: list[Piece], source: Source) -> list[Problem]:
    """Namespaces that a dialect names and no part in it has: what the dialect says of them is not read."""
    problems = []
    for dialect in {piece.dialect.name: piece.dialect for piece in pieces}.values():
        parts = [
            piece.part for piece in pieces if piece.dialect.name == dialect.name and piece.root
        ]
        for prefix, uri in dialect.namespaces.items() if parts else ():
            if not any(_holds(part, uri.encode()) for part in parts):
                problems.append(
                    Problem.at(
                        NOWHERE,
                        "namespace-missing",
                        dialect=dialect.name,
                        prefix=prefix,
                        uri=uri,
                        export=source.path.name,
                    )
                )
    return problems


def _page_alone(pieces: list[Piece]) -> list[Problem]:
    """A warning for one page that no dialect recognises: it may be what an export's link showed before a login."""
    if len(pieces) != 1:
        return []
    format_ = plugins.get(plugins.FORMATS, pieces[0].format)
    if not format_.is_one_page or pieces[0].dialect != format_.plain():
        return []
    part = pieces[0].part
    return [Problem.at(Where(part.label), "page-alone", file=part.name)]


def _holds(part: Part, words: bytes) -> bool:
    """Whether a part has these bytes anywhere; mostly they are at its beginning."""
    before = b""
    with part.open() as stream:
        while block := stream.read(_BLOCK):
            if words in before + block:
                return True
            before = block[-len(words) :]
    return False


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
    """A part in a format and dialect, as UTF-8, with the words replaced that the dialect says."""
    piece = _decoded(head, format_name, dialect)
    return replace(piece, part=replaced(piece.part, dialect.replace))


def _decoded(head: Head, format_name: str, dialect: Dialect) -> Piece:
    """A part in a format and dialect, as UTF-8; the encoding of a text that declares none is guessed."""
    root = head.prolog.root if head.prolog else ""
    is_text = plugins.get(plugins.FORMATS, format_name).is_text
    if head.encoding or (root and not is_text):
        return Piece(head.text, format_name, dialect, root, head.encoding)
    encoding = guessed_encoding(head.text.open)
    if encoding is None:
        return Piece(head.text, format_name, dialect, root)
    if dialect.encoding:
        encoding = TextEncoding(encoding_named(dialect.encoding))
    return Piece(as_utf8(head.text, encoding), format_name, dialect, root, encoding)


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
        for name, part in list(files.items()):
            wanted = [
                format_ for format_ in sorted(formats) if _has_map(dialect, name, format_)
            ]
            head = _readable_head(part) if wanted else None
            if head is None:
                continue
            for format_name in wanted:
                if plugins.get(plugins.FORMATS, format_name).recognise(head):
                    pieces.append(_read_as(head, format_name, dialect))
                    del files[name]
                    break


def _readable_head(part: Part) -> Head | None:
    """The beginning of a part; None where its bytes cannot be had, which is said when it is read as a file."""
    try:
        return head_of(part)
    except BurrowError as error:
        if error.problem.code not in UNREADABLE:
            raise
        return None
