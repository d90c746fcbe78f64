"""Reading an export of many parts, such as pages, in two processes, a half each; the store is as if one had read it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec import Struct

from newburrow.core.problem import BurrowError, Problem
from newburrow.core.progress import Listener, nobody
from newburrow.core.workers import Pool
from newburrow.dialects.schema import Dialect
from newburrow.formats.exports import export_records
from newburrow.formats.exports.export import Export, ExportRequest, nothing_known
from newburrow.formats.exports.piece import Piece
from newburrow.formats.exports.site_index import SiteIndex
from newburrow.intake.opening import open_source
from newburrow.model import Site
from newburrow.model.reading import Item
from newburrow.store.new_store import CannotSplit, NewStore, PartialStore

_FEW = 20  # dialects that one export can have
MANY = 3000  # parts for which starting another process pays


class ManyParts(Struct, frozen=True):
    """A source whose parts with content are to be read in two halves."""

    path: Path
    asked: str
    request: ExportRequest
    pieces: list[
        tuple[str, str, int, str]
    ]  # of the second half: part, format, dialect, root element
    dialects: list[Dialect]
    files: list[str]
    index: list[str]  # feeds and sitemaps
    site: Site | None
    top_folder: str  # of the whole export


def find(exports: Sequence[Export], jobs: int, many: int = MANY) -> ManyParts | None:
    """How to read one source in two halves; None if one process reads it all.

    A source is split if it has many parts, all of them in UTF-8 and none in an archive within it.
    """
    if len(exports) != 1 or jobs < 2 or len(exports[0].pieces) < many:
        return None
    export = exports[0]
    own = {part.name for part in export.source.parts}
    simple = all(
        piece.part.name in own and piece.encoding is None and not piece.dialect.replace
        for piece in export.pieces
    )
    if export.beside or not simple or not export.files.keys() <= own:
        return None
    dialects: list[Dialect] = []
    for piece in export.pieces:
        if all(piece.dialect is not known for known in dialects):
            dialects.append(piece.dialect)
    if len(dialects) > _FEW:
        return None
    numbers = {id(dialect): number for number, dialect in enumerate(dialects)}
    second = export.pieces[len(export.pieces) // 2 :]
    return ManyParts(
        export.source.path,
        export.asked,
        export.request,
        [(p.part.name, p.format, numbers[id(p.dialect)], p.root) for p in second],
        dialects,
        list(export.files),
        [part.name for part in export.index],
        export_records.site_first(export, export_records.UNKNOWN_SITE),
        export.top,
    )


def put(store: NewStore, export: Export, many: ManyParts, listener: Listener) -> None:
    """Fill a store with an export, the second half of it by another process. Raises CannotSplit."""
    beside = store.path.with_name(store.path.name + "-half")
    first = export.pieces[: len(export.pieces) - len(many.pieces)]
    try:
        with Pool(1) as pool:
            other = pool.start(_second, many, beside)
            for problem in export.problems:
                store.add(problem)
            if many.site:
                store.add(many.site)
            for record in _records(export, first, many.site, listener):
                store.add(record)
            half, used, siblings = other.result()
        export.used.update(used)
        export.siblings.update(siblings)
        store.take(beside, half)
        for file in export_records.rest(export):
            store.add(file)
        store.export_ends()
    except BurrowError as error:
        raise CannotSplit from error  # reading it in one piece finds the error at its place
    finally:
        beside.unlink(missing_ok=True)


def _records(
    export: Export, pieces: Sequence[Piece], site: Site | None, listener: Listener
) -> Iterator[Item | Problem]:
    progress = export_records.Progress(listener)
    for piece in pieces:
        found = export_records.read_piece(export, piece, site, progress)
        yield from export_records.with_files(export, piece, found)
        progress.next_part()


def _second(many: ManyParts, path: Path) -> tuple[PartialStore, set[str], set[str]]:
    """The second half, into a store of its own."""
    try:
        return _filled(many, path)
    except BurrowError as error:
        raise CannotSplit(error.problem.message) from None


def _filled(many: ManyParts, path: Path) -> tuple[PartialStore, set[str], set[str]]:
    source = open_source(many.path, many.request.limits)
    parts = {part.name: part for part in source.parts}
    pieces = [
        Piece(parts[name], format_, many.dialects[number], root)
        for name, format_, number, root in many.pieces
    ]
    export = Export(
        source,
        tuple(pieces),
        {name: parts[name] for name in many.files},
        many.asked,
        request=many.request,
        top_folder=many.top_folder,
        known_page=SiteIndex([parts[name] for name in many.index]).page
        if many.index
        else nothing_known,
    )
    path.unlink(missing_ok=True)
    with NewStore(path) as store:
        for record in _records(export, pieces, many.site, nobody):
            store.add(record)
        return store.half(), export.used, export.siblings
