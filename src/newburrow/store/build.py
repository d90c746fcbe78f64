"""Filling a content store from exports, or finding that the one at hand is of the same exports."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from newburrow import __version__
from newburrow.core import workers
from newburrow.core.progress import Listener
from newburrow.dialects.schema import Dialect
from newburrow.formats.exports import detection, several
from newburrow.store import fill, two_halves
from newburrow.store.content_store import Store
from newburrow.store.merge.merge_exports import unite


def fingerprint(exports: Sequence[detection.Export]) -> str:
    """What a store is made from: the sources, their dialects, its tables and this version of New Burrow."""
    digest = hashlib.sha256(__version__.encode())
    for export in exports:
        for source in (export.source, *export.beside):
            digest.update(source.fingerprint().encode())
        for piece in export.pieces:
            digest.update(repr(piece.dialect).encode())
    return digest.hexdigest()


def prepare(paths: Iterable[Path], jobs: int, module: str) -> None:
    """Get other processes ready that know a module, where a file is large enough to share."""
    if jobs > 1 and any(
        path.is_file() and path.stat().st_size >= two_halves.LARGE for path in paths
    ):
        workers.prepare(module)


def dialects_of(exports: Sequence[detection.Export]) -> tuple[Dialect, ...]:
    """The dialects that the exports are in, each once, in the order met."""
    found = {piece.dialect.name: piece.dialect for export in exports for piece in export.pieces}
    return tuple(
        (
            found | {dialect.name: dialect for export in exports for dialect in export.kept}
        ).values()
    )


def filled_store(
    path: Path,
    exports: Sequence[detection.Export],
    listener: Listener,
    jobs: int = 1,
    kept: bool = True,
) -> Store:
    """The content store at `path`: the one that stands there if it is of these exports, else a new one.

    One that is not `kept` for another run needs no fingerprint, which takes a pass over the exports.
    """
    # most of it is done outside of the interpreter, while this one reads
    with ThreadPoolExecutor(1) as beside:
        mark = beside.submit(fingerprint, exports if kept else ())
        if path.is_file():
            known = Store(path)
            if known.meta("fingerprint") == mark.result():
                return known
            known.__exit__()

        def facts() -> dict[str, str]:
            return {"fingerprint": mark.result() if kept else ""}

        if cut := two_halves.find(exports, jobs):
            try:
                return fill.filled(
                    path,
                    lambda new: two_halves.put(new, exports[0], cut, listener),
                    facts,
                    unite,
                )
            except two_halves.NotAlone:
                pass
        return fill.fill(path, several.records(exports, listener), facts, unite)
