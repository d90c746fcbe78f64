"""Several things handed in as one: which belong to one site, and the records of all with keys that do not meet."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import islice
from pathlib import Path
from typing import TypeVar

from msgspec.structs import replace

from newburrow.core import url
from newburrow.core.problem import BurrowError, Problem, refusal
from newburrow.core.progress import Listener
from newburrow.dialects.file_pattern import matches_file
from newburrow.formats.exports import detection, export_records
from newburrow.formats.exports.export import Export, ExportRequest
from newburrow.formats.exports.piece import Piece
from newburrow.intake.part import Part
from newburrow.model import Entry, Media, Record, Site
from newburrow.model.keys import mark_of, marked
from newburrow.model.reading import FormerAddress, Item, LeftOutFile, Mention, Relation
from newburrow.model.record_types import with_references

R = TypeVar("R", bound=Record)
_PEEKED = 1000  # records of a part, in which a site is looked for


# What was opened for a draft, for the move that follows it at once: opening a zip of many pages takes seconds.
_opened: list[tuple[tuple[object, ...], list[Export]]] = []


def examine_again(request: ExportRequest) -> list[Export]:
    """The sources as `examine_all` has opened them just now, if they are the same and unchanged; else opened anew."""
    while _opened:
        asked, exports = _opened.pop()
        sources = [export.source for export in exports]
        if asked == _asked(request) and all(
            source.stamp() == source.opened for source in sources
        ):
            return exports
    return examine_all(request)


def keep_opened(request: ExportRequest, exports: list[Export]) -> None:
    """Keep what was opened for the next call of `examine_again`."""
    _opened[:] = [(_asked(request), exports)]


def _asked(request: ExportRequest) -> tuple[object, ...]:
    dialects = [
        str(Path(dialect).resolve()) if dialect.endswith(".toml") else dialect
        for dialect in request.dialects
    ]
    paths = [str(path.resolve()) for path in request.paths]
    content, site = tuple(request.content), request.site_address
    return (*paths, "", *filter(None, dialects), "", site, content, request.limits)


def examine_all(request: ExportRequest) -> list[Export]:
    """Open all sources. One without content of its own gives its files to the others.

    Raises BurrowError if one cannot be read, none holds content, or the dialects are not one for all sources
    and not one for each.
    """
    paths, dialects = request.paths, list(request.dialects or [""])
    if len(dialects) == 1:
        dialects *= len(paths)
    if len(dialects) != len(paths):
        raise refusal(
            "usage",
            f"There are {len(dialects)} dialects for {len(paths)} exports.",
            "Name one dialect for all exports, or one for each in their order; an empty one is recognised.",
        )
    is_one = len(paths) == 1
    found = [
        detection.examine(path, dialect, is_one, request)
        for path, dialect in zip(paths, dialects, strict=True)
    ]
    exports = [export for export in found if export.pieces]
    if not exports:
        detection.examine(paths[0], dialects[0], request=request)
    for number, export in enumerate(found, 1):
        if not export.pieces:
            exports[0].beside.append(export)
            exports[0].problems.extend(export.problems)
            for name, part in export.files.items():
                named = f"beside-{number}/{name}"
                exports[0].files[named] = replace(part, name=named)
    return exports


def records(
    exports: Sequence[Export], listener: Listener
) -> Iterator[Iterator[Item | Problem]]:
    """The records of each export."""
    if len(exports) == 1:
        yield export_records.records(exports[0], listener)
        return
    # what makes exports one -> number of the first of them
    firsts: dict[tuple[str, ...], int] = {}
    seen: set[str] = set()  # names of the files of exports that do not say their site
    for number, export in enumerate(exports, 1):
        site = _site_of(export)
        known = (
            site is not None
            and bool(url.site_key(site.address))
            and site.address != export_records.UNKNOWN_SITE
        )
        same = (
            *sorted({piece.dialect.name for piece in export.pieces}),
            url.site_key(site.address) if site else "",
        )
        if not known:
            # Tables of one site can come one by one; anything else, or two of one name, may be of different sites.
            names = {part.name for part in export.source.parts}
            tables = len(names) == 1 and all(piece.dialect.records for piece in export.pieces)
            earlier = [key for key in firsts if key[:-1] == same[:-1]]
            if earlier and all(map(_tells_of_others, export.pieces)):
                same = earlier[0]
            elif site and site.title and any(map(export_records.is_manifest, export.pieces)):
                same = (*same, site.title)  # a course is known by its name
            elif not (tables and not names & seen):
                same = (*same, f"export {number}")
            seen |= names
        first = firsts.setdefault(same, number)
        if first > 1:
            unknown = f"https://old-site-{first}.example/"
        else:
            unknown = export_records.UNKNOWN_SITE
        export.seen.first = first
        yield scoped(
            _dated(export_records.records(export, listener, unknown), export),
            mark_of(first),
            mark_of(number).replace(":", "/"),
        )


def _tells_of_others(piece: Piece) -> bool:
    """Whether a part only says something of entries that are elsewhere, as a table of tags that comes later."""
    rules = [
        record
        for record in piece.dialect.records
        if (record.format or piece.dialect.format) == piece.format
        and matches_file(piece.part.name, record.file)
    ]
    return bool(rules) and all(record.of == "relation" for record in rules)


def _dated(items: Iterator[Item | Problem], export: Export) -> Iterator[Item | Problem]:
    """The same items; how new they are is noted of the export."""
    for item in items:
        if isinstance(item, Site) and item.written:
            export.seen.written = item.written
        if isinstance(item, Entry) and item.status == "published":
            when = item.updated or item.published
            if when and (export.seen.newest is None or when > export.seen.newest):
                export.seen.newest = when
        yield item


def _site_of(export: Export) -> Site | None:
    """The site as the export tells of it at its beginning; None where it does not."""
    if site := export_records.site_first(export, export_records.UNKNOWN_SITE):
        return site
    for piece in export.pieces:
        try:
            for item in islice(
                export_records.read_piece(export, piece, None, lambda _entries: None), _PEEKED
            ):
                record = item.record if isinstance(item, Mention) else item
                if isinstance(record, Site):
                    return record
        except BurrowError:
            continue  # said when all of it is read
    return None


def file_of(exports: Sequence[Export], media: Media) -> Part:
    """The part that holds the bytes of a media record.

    Raises BurrowError if no export has a file of that path and size any more.
    """
    for number, export in enumerate(exports, 1):
        mark = mark_of(number).replace(":", "/")
        if media.path.startswith(mark):
            part = export.files.get(media.path.removeprefix(mark))
        else:
            part = None
        if part and part.size in (media.size, -1):
            return part
    raise refusal(
        "file-vanished",
        f"The file {media.path!r} is no longer in the export.",
        "Hand in the export as it was for the draft.",
        media.source,
    )


def scoped(
    items: Iterable[Item | Problem], key_mark: str, path_mark: str
) -> Iterator[Item | Problem]:
    """The items of one export with marks that keep them apart from those of others.

    `key_mark` goes before their keys and references, `path_mark` before the paths of their files.
    """

    def key(word: str) -> str:
        return marked(key_mark, word)

    for item in items:
        if isinstance(item, Problem):
            yield replace(item, key=key(item.key))
        elif isinstance(item, Relation):
            yield replace(item, entry=key(item.entry), scope=key_mark)
        elif isinstance(item, FormerAddress):
            yield item
        elif isinstance(item, LeftOutFile):
            yield replace(item, name=path_mark + item.name)
        elif isinstance(item, Mention):
            yield Mention(_scoped(item.record, key, path_mark))
        else:
            yield _scoped(item, key, path_mark)


def _scoped(record: R, key: Callable[[str], str], path_mark: str) -> R:
    own = key(record.key)
    if record.key.startswith("file:"):  # a path belongs to one export alone
        own = path_mark + record.key
    return with_references(replace(record, key=own), key, path_mark)
