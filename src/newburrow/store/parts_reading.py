"""Reading an export of many files in two processes, a half each; the store is as if one had read it.

The files are parts of their own, such as pages, or those that a manifest describes.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from itertools import accumulate
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import plugins
from newburrow.core.problem import BurrowError
from newburrow.core.progress import Listener, nobody
from newburrow.core.workers import Pool
from newburrow.dialects.schema import Dialect
from newburrow.formats.exports import export_records
from newburrow.formats.exports.export import Export, ExportRequest
from newburrow.formats.exports.piece import Piece
from newburrow.formats.exports.site_index import SiteIndex
from newburrow.intake.opening import open_source
from newburrow.model import Site
from newburrow.model.reading import HALVES
from newburrow.store.new_store import CannotSplit, NewStore, PartialStore

_FEW = 20  # dialects that one export can have
MANY = 3000  # parts for which starting another process pays
LARGE = 5_000_000  # bytes of pages, or of text that a manifest describes, likewise
_TEXTS = (".xml", ".html", ".htm", ".xhtml")


class _Half(Struct, frozen=True):
    """A piece of the second half, in words that another process understands."""

    part: str
    format: str
    dialect: int
    root: str
    share: tuple[float, float]


class ManyParts(Struct, frozen=True):
    """A source whose parts with content are to be read in two halves."""

    path: Path
    asked: str
    request: ExportRequest
    pieces: list[_Half]  # the second one
    dialects: list[Dialect]
    files: list[str]
    index: list[str]  # feeds and sitemaps
    site: Site | None
    top_folder: str  # of the whole export


def find(
    exports: Sequence[Export], jobs: int, many: int = MANY, large: int = LARGE
) -> ManyParts | None:
    """How to read one source in two halves; None if one process reads it all.

    A source is split if it has many parts, or pages or a manifest with a certain number of bytes; all of them in
    UTF-8 and none in an archive within it.
    """
    if len(exports) != 1 or jobs < 2:
        return None
    export = exports[0]
    if len(export.pieces) < many and _bytes(export) < large:
        return None
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
    _first, second = _halves(export)
    return ManyParts(
        export.source.path,
        export.asked,
        export.request,
        [_Half(p.part.name, p.format, numbers[id(p.dialect)], p.root, p.share) for p in second],
        dialects,
        list(export.files),
        [part.name for part in export.index],
        export_records.site_first(export, export_records.UNKNOWN_SITE),
        export.top,
    )


def _bytes(export: Export) -> int:
    """The bytes of files with an entry each, or of the text that the one manifest of an export describes; else 0."""
    pieces = export.pieces
    if all(plugins.get(plugins.FORMATS, piece.format).is_tree for piece in pieces):
        if len(pieces) > 1:
            return sum(piece.part.size for piece in pieces)
        return 0
    if len(pieces) != 1 or not export_records.is_manifest(pieces[0]):
        return 0
    return sum(
        part.size for name, part in export.files.items() if name.lower().endswith(_TEXTS)
    )


def _halves(export: Export) -> tuple[Sequence[Piece], Sequence[Piece]]:
    """The pieces of an export in two halves by bytes; one that is a manifest is in both, with half of its files."""
    if len(export.pieces) == 1:
        whole = export.pieces[0]
        first, second = HALVES
        return [replace(whole, share=first)], [replace(whole, share=second)]
    sizes = list(accumulate(max(piece.part.size, 1) for piece in export.pieces))
    middle = bisect_left(sizes, sizes[-1] / 2) + 1
    middle = min(middle, len(sizes) - 1)
    return export.pieces[:middle], export.pieces[middle:]


def put(store: NewStore, export: Export, many: ManyParts, listener: Listener) -> None:
    """Fill a store with an export, the second half of it by another process. Raises CannotSplit."""
    beside = store.path.with_name(store.path.name + "-half")
    first, _second_half = _halves(export)
    try:
        with Pool(1) as pool:
            other = pool.start(_second, many, beside)
            for problem in export.problems:
                store.add(problem)
            if many.site:
                store.add(many.site)
            progress = export_records.Progress(listener)
            for record in export_records.of_pieces(export, first, many.site, progress):
                store.add(record)
            half, used, siblings = other.result()
        export.used.update(used)
        export.siblings.update(siblings)
        store.take(beside, half)
        for file in export_records.rest(export, many.site):
            store.add(file)
        store.export_ends()
    except BurrowError as error:
        raise CannotSplit from error  # reading it in one piece finds the error at its place
    finally:
        beside.unlink(missing_ok=True)


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
        Piece(
            parts[half.part],
            half.format,
            many.dialects[half.dialect],
            half.root,
            share=half.share,
        )
        for half in many.pieces
    ]
    export = Export(
        source,
        tuple(pieces),
        {name: parts[name] for name in many.files},
        many.asked,
        request=many.request,
        top_folder=many.top_folder,
        site_index=SiteIndex([parts[name] for name in many.index]) if many.index else None,
    )
    path.unlink(missing_ok=True)
    with NewStore(path) as store:
        progress = export_records.Progress(nobody)
        for record in export_records.of_pieces(export, pieces, many.site, progress):
            store.add(record)
        return store.half(), export.used, export.siblings
