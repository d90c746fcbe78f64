"""Reading one large feed in two processes, a half each; the store is the same as if one had read it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any, BinaryIO

from msgspec import Struct

from newburrow.core import plugins, url
from newburrow.core.problem import BurrowError, Problem
from newburrow.core.progress import Listener, nobody
from newburrow.core.workers import Pool
from newburrow.formats.base import Input
from newburrow.formats.exports import detection, export_records
from newburrow.formats.exports.export import Export, ExportRequest
from newburrow.intake import xml_cut
from newburrow.intake.xml_cut import Cut
from newburrow.model import Site
from newburrow.model.reading import Item, Mention
from newburrow.store.new_store import CannotSplit, NewStore, PartialStore

LARGE = 20_000_000  # bytes of a file for which starting another process pays
_ITEMS = {"rss": b"item", "atom": b"entry"}


class SplitExport(Struct, frozen=True):
    """A source whose largest part is to be read in two halves."""

    path: Path
    dialect: str  # that was asked for
    request: ExportRequest
    piece: int  # which of the export's pieces is cut
    cut: Cut


def find(exports: Sequence[Export], jobs: int, large: int = LARGE) -> SplitExport | None:
    """How to read one source in two halves; None if one process reads it all.

    A source is split if it is one feed above a certain size, in a dialect without plain records, and more
    than one job is allowed.
    """
    if len(exports) != 1 or exports[0].beside or jobs < 2:
        return None
    export = exports[0]
    sizes = [piece.part.size for piece in export.pieces]
    number = sizes.index(max(sizes))
    piece = export.pieces[number]
    if (
        piece.format not in _ITEMS
        or piece.part.size < large
        or any(piece.dialect.records for piece in export.pieces)
    ):
        return None
    cut = xml_cut.find(piece.part.open, _ITEMS[piece.format], piece.part.size // 2)
    if cut:
        return SplitExport(export.source.path, export.asked, export.request, number, cut)
    return None


def put(store: NewStore, export: Export, split: SplitExport, listener: Listener) -> None:
    """Fill a store with an export, the second half of it by another process.

    The result is as if one process had read it all. Raises CannotSplit if a half cannot be read by itself:
    then the caller reads it in one, which also finds what is wrong with its place.
    """
    beside = store.path.with_name(store.path.name + "-half")
    try:
        with Pool(1) as pool:
            other = pool.start(_second, split, beside)
            for record in _first(export, split, listener):
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


def _first(export: Export, split: SplitExport, listener: Listener) -> Iterator[Item | Problem]:
    yield from export.problems
    progress = export_records.Progress(listener)
    before = export.pieces[: split.piece]
    yield from export_records.of_pieces(export, before, None, progress)
    found = _read(export, split, xml_cut.first_half, 0, progress)
    # the second half knows all of it
    items = (record for record in found if not isinstance(record, Site))
    yield from _in_time(export, split, items)


def _second(split: SplitExport, path: Path) -> tuple[PartialStore, set[str], set[str]]:
    """The second half and what comes after it, into a store of its own."""
    try:
        return _filled(split, path)
    except BurrowError as error:
        raise CannotSplit(error.problem.message) from None


def _filled(split: SplitExport, path: Path) -> tuple[PartialStore, set[str], set[str]]:
    export = detection.examine(split.path, split.dialect, request=split.request)
    path.unlink(missing_ok=True)
    with NewStore(path) as store:
        piece = export.pieces[split.piece]
        found = _behind_the_frame(
            _read(export, split, xml_cut.second_half, split.cut.lines, lambda _count: None)
        )
        for record in _in_time(export, split, found):
            if getattr(record, "key", "").startswith(f"{piece.part.label}, line "):
                raise CannotSplit  # it is named by its number among all of that file
            store.add(record)
        progress = export_records.Progress(nobody)
        after = export.pieces[split.piece + 1 :]
        for record in export_records.of_pieces(export, after, None, progress):
            store.add(record)
        return store.half(), export.used, export.siblings


def _in_time(
    export: Export, split: SplitExport, found: Iterator[Item | Problem]
) -> Iterator[Item | Problem]:
    """What is found in the part that is cut, with the facts of its files, and each record in time."""
    piece = export.pieces[split.piece]
    with_files = export_records.with_files(export, piece, found)
    return export_records.in_time(export, with_files, lambda: piece.part.label)


def _behind_the_frame(found: Iterator[Item | Problem]) -> Iterator[Item | Problem]:
    """What comes after the frame, which the first half has told already."""
    for record in found:
        if isinstance(record, Mention) and isinstance(record.record, Site):
            if not url.site_key(record.record.address):
                raise CannotSplit  # it would be read from the first item
            break
    yield from found


def _read(
    export: Export,
    split: SplitExport,
    half: Callable[[Any, Cut], BinaryIO],
    lines: int,
    progress: Callable[[int], None],
) -> Iterator[Item | Problem]:
    piece = export.pieces[split.piece]
    format_: Any = plugins.get(plugins.FORMATS, piece.format)
    with half(piece.part.open, split.cut) as stream:
        source = Input(
            piece.part.label,
            stream,
            piece.dialect,
            piece.root,
            piece.part.name,
            lines=lines,
            progress=progress,
            sibling=export.opener_for(piece.part),
        )
        yield from format_.read(source)
