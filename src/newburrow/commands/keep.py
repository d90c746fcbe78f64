"""Keeping what was taken in, whole and unchanged, in a bag that can be moved from later."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Sequence
from itertools import islice
from pathlib import Path
from typing import BinaryIO

from msgspec.structs import replace

from newburrow.core.problem import refusal
from newburrow.core.progress import Event, Listener, nobody
from newburrow.decide import out_check
from newburrow.formats.bag.writer import DIALECTS, FOLDER, BagWriter
from newburrow.formats.exports import several
from newburrow.formats.exports.export import Export, ExportRequest
from newburrow.model import Media, Site
from newburrow.model.record_types import all_types, ledger_order
from newburrow.store.build import dialects_of, filled_store
from newburrow.store.content_store import Store
from newburrow.write.safe_paths import SafePaths


def keep(request: ExportRequest, out: Path, listener: Listener = nobody) -> dict[str, int]:
    """Write all records and files of these exports to a new bag; gives how many of each type of record.

    Raises BurrowError, with nothing written, where `out` exists or an export cannot be read.
    """
    if out.exists():
        raise refusal(
            "exists",
            f"There is something at {str(out)!r} already.",
            "Name a folder that does not exist yet.",
        )
    out_check.check(request.paths, out)
    exports = several.examine_all(request)
    out.parent.mkdir(parents=True, exist_ok=True)
    part = Path(tempfile.mkdtemp(prefix=f".{out.name}.", dir=out.parent))
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as name,
        filled_store(Path(name) / "content.sqlite", exports, listener, is_kept=False) as store,
    ):
        try:
            counts = _write(store, exports, part, listener)
        except BaseException:
            shutil.rmtree(part, ignore_errors=True)
            raise
    part.rename(out)
    return counts


class _Folder:
    """Where the bag is written."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def open(self, name: str) -> BinaryIO:
        """A new file under a name that is safe."""
        target = self.path / name
        target.parent.mkdir(parents=True, exist_ok=True)
        return target.open("wb")


def _write(
    store: Store, exports: Sequence[Export], path: Path, listener: Listener
) -> dict[str, int]:
    folder = _Folder(path)
    writer = BagWriter(folder, store.site(), dialects_of(exports))
    counts = {record_type.table: 0 for record_type in all_types() if record_type.planned}
    counts["site"] = store.count(Site)
    paths = SafePaths(f"{FOLDER}/{name}.jsonl" for name in (*ledger_order(), DIALECTS))
    placed: dict[str, str] = {}  # path in the export -> path in the bag
    for further in islice(store.all(Site), 1, None):
        writer.record(further)
    for record_type in all_types():
        name, kind = record_type.table, record_type.record
        for record in store.all(kind) if kind is not Site else ():
            if isinstance(record, Media) and record.path:
                place = placed.get(record.path) or paths.place(record.path)
                if record.path not in placed:
                    with (
                        several.file_of(exports, record).open() as source,
                        folder.open(f"data/{place}") as target,
                    ):
                        shutil.copyfileobj(source, target, 1 << 18)
                placed[record.path] = place
                record = replace(record, path=place)
            writer.record(record)
            counts[name] = counts.get(name, 0) + 1
            if counts[name] % 50 == 0:
                listener(Event("Writing the bag", counts[name], store.count(kind), name))
    writer.finish()
    return counts
