"""Filling a content store from exports, or finding that the one at hand is of the same exports."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path

import msgspec

from newburrow.core import workers
from newburrow.core.problem import BurrowError, refusal
from newburrow.core.progress import Event, Listener
from newburrow.dialects.schema import Dialect
from newburrow.formats.exports import several
from newburrow.formats.exports.export import Export, ExportRequest
from newburrow.formats.exports.file_counts import sum_of
from newburrow.intake.source import Source
from newburrow.store import fill, migrations, parts_reading, split_reading
from newburrow.store.content_store import Store
from newburrow.store.merge.merge_exports import unite
from newburrow.store.migrations import State
from newburrow.store.new_store import CannotSplit

_LARGE_ZIP = 2_000_000  # bytes of an archive whose text is likely to be several times as long
_READERS = "10"  # increase it when the readers give different records for the same export


def fingerprint(exports: Sequence[Export]) -> str:
    """A digest of the sources and dialects that a store is made from; it changes when any of them does."""
    digest = hashlib.sha256()
    for source in _sources(exports):
        digest.update(source.fingerprint().encode())
    words: dict[int, bytes] = {}  # of each dialect, by its identity
    for export in exports:
        digest.update(repr(list(export.request.content)).encode())
        for piece in export.pieces:
            if id(piece.dialect) not in words:
                words[id(piece.dialect)] = repr(piece.dialect).encode()
            digest.update(words[id(piece.dialect)])
    return digest.hexdigest()


def prepare(paths: Iterable[Path], jobs: int, module: str) -> None:
    """Start other processes early, while the first one reads, if the exports are large.

    `module` is imported in each of them, so that work starts without that delay. Does nothing for small
    exports or one job.
    """
    if jobs > 1 and any(map(_is_large, paths)):
        workers.prepare(module)


def _is_large(path: Path) -> bool:
    """Whether two processes are likely to read an export; a zip is not opened for that."""
    if not path.is_file():
        return False
    if path.suffix.lower() == ".zip":
        least = _LARGE_ZIP
    else:
        least = split_reading.LARGE
    return path.stat().st_size >= least


def dialects_of(exports: Sequence[Export]) -> tuple[Dialect, ...]:
    """The dialects that the exports are in, each once, in the order met."""
    found = {piece.dialect.name: piece.dialect for export in exports for piece in export.pieces}
    return tuple(
        (
            found
            | {dialect.name: dialect for export in exports for dialect in export.dialects_kept}
        ).values()
    )


def filled_store(
    path: Path,
    exports: Sequence[Export],
    listener: Listener,
    jobs: int = 1,
    is_kept: bool = True,
) -> Store:
    """The content store at `path`, filled with these exports.

    A store that is there already is used if it is of the same exports (by fingerprint), dialects and
    schema; an older schema is migrated; any other store is filled again. `is_kept=False` is for a store
    that is thrown away: it needs no fingerprint, which costs a pass over the exports. Raises BurrowError
    if an export cannot be read; no half-filled store is left.
    """
    # most of it runs outside the interpreter lock, while the main thread reads
    with ThreadPoolExecutor(1) as beside:
        mark = beside.submit(fingerprint, exports if is_kept else ())
        if path.is_file() and (usable := _usable(path, mark.result(), listener)):
            return usable

        def facts() -> dict[str, str]:
            changed = [
                source for source in _sources(exports) if source.stamp() != source.opened
            ]
            if changed:
                raise _changed(changed)
            counts = sum_of(export.file_counts() for export in exports)
            return {
                "fingerprint": mark.result() if is_kept else "",
                "readers": _READERS,
                "files": msgspec.json.encode(counts).decode(),
            }

        if cut := split_reading.find(exports, jobs):
            try:
                return fill.filled(
                    path,
                    lambda new: split_reading.put(new, exports[0], cut, listener),
                    facts,
                    unite,
                )
            except CannotSplit:
                pass
        if many := parts_reading.find(exports, jobs):
            try:
                return fill.filled(
                    path,
                    lambda new: parts_reading.put(new, exports[0], many, listener),
                    facts,
                    unite,
                )
            except CannotSplit:
                pass
        return fill.fill(path, several.records(exports, listener), facts, unite)


def _sources(exports: Sequence[Export]) -> list[Source]:
    return [whole.source for export in exports for whole in (export, *export.beside)]


def _changed(sources: Sequence[Source]) -> BurrowError:
    names = ", ".join(repr(str(source.path)) for source in sources)
    return refusal(
        "export-changed",
        f"The export changed while it was read: {names}.",
        "Something still writes to it, such as a download. Run the command again when that is done.",
    )


def _usable(path: Path, mark: str, listener: Listener) -> Store | None:
    """The store at a path, brought up to date; None for one of other exports, or that cannot be used."""
    known = Store(path)
    state = migrations.bring_up_to_date(known.db)
    if known.meta("readers") != _READERS:
        state = State.UNUSABLE
    same = known.meta("fingerprint") == mark
    if same and state is not State.UNUSABLE:
        if state is State.MIGRATED:
            listener(Event.of_notice(f"{path} was brought up to date with this version."))
        return known
    known.__exit__()
    if state is State.UNUSABLE:
        notice = (
            f"{path} was made by another version of New Burrow, so the export is read again."
        )
        listener(Event.of_notice(notice))
    return None


def opened_export(listener: Listener) -> Callable[[Path], AbstractContextManager[Store]]:
    """What reads the export at a path into a store that is thrown away.

    It raises BurrowError where that cannot be read.
    """
    return lambda path: _opened(path, listener)


@contextmanager
def _opened(path: Path, listener: Listener) -> Iterator[Store]:
    exports = several.examine_all(ExportRequest([path]))
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as name,
        filled_store(Path(name) / "content.sqlite", exports, listener, is_kept=False) as store,
    ):
        yield store
