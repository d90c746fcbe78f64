"""The result of a move, read back by the reader of its format."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from msgspec import Struct

from newburrow.core.progress import Listener
from newburrow.dialects.schema import Dialect
from newburrow.formats.exports import several
from newburrow.formats.exports.export import ExportRequest
from newburrow.store.build import dialects_of, filled_store
from newburrow.store.content_store import Store
from newburrow.store.met_records import MetRecords


class Result(Struct, frozen=True):
    """What lies in `new/`."""

    store: Store
    records: MetRecords
    dialects: tuple[Dialect, ...]

    @property
    def says_site(self) -> bool:
        """Whether the result can say facts of the site: plain records do only where a dialect has a table for them."""
        return any(
            not dialect.records or any(rules.of == "site" for rules in dialect.records)
            for dialect in self.dialects
        )


@contextmanager
def read_back(folder: Path, dialect: str, listener: Listener, jobs: int) -> Iterator[Result]:
    """What the new host imports, as a store that is thrown away in the end.

    `folder` is the one that it imports, `dialect` the one in which it does; empty to recognise it. Raises
    BurrowError where it cannot be read.
    """
    dialects = [dialect] if dialect else []
    exports = several.examine_all(ExportRequest([folder], dialects))
    with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
        path = Path(name) / "content.sqlite"
        with filled_store(path, exports, listener, jobs, is_kept=False) as store:
            records = MetRecords(store, folder)
            records.index()
            yield Result(store, records, dialects_of(exports))
