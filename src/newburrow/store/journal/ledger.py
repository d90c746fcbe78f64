"""The fate of every object."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Iterator, Sequence

from msgspec.structs import asdict

from newburrow.core import log_facts
from newburrow.store.journal.rows import Fate, LedgerRow

log = logging.getLogger(__name__)

# of the table that reports it
COLUMNS = ("object", "kind", "title", "old_address", "new_address", "fate", "reason")


class Ledger:
    """The ledger while it is written. It admits one row an object."""

    def __init__(self, db: sqlite3.Connection, order: Sequence[str]) -> None:
        """`order` has the tables of all types of records, in the order of the ledger."""
        self._db = db
        self._ranks = {table: rank for rank, table in enumerate(order)}

    def add(self, *rows: LedgerRow) -> None:
        """Add the fates of objects. Raises sqlite3.IntegrityError for an object that has a fate already."""
        holders = ", ".join("?" * 10)
        if log.isEnabledFor(logging.DEBUG):
            for row in rows:
                log_facts.debug(log, "fate", **asdict(row))
        self._db.executemany(f"INSERT INTO fate VALUES ({holders})", map(self._values, rows))

    def _values(self, row: LedgerRow) -> tuple[object, ...]:
        return (
            row.object,
            row.key,
            row.kind,
            row.fate.value,
            row.reason,
            row.title,
            row.old,
            row.new,
            row.nth,
            self._ranks[row.object],
        )

    def has(self, table: str, key: str) -> bool:
        """Whether an object has a fate."""
        row = self._db.execute(
            "SELECT 1 FROM fate WHERE object = ? AND key = ? AND nth = 0", (table, key)
        ).fetchone()
        return row is not None

    def has_moved(self, table: str, key: str) -> bool:
        """Whether an object moved."""
        row = self._db.execute(
            "SELECT fate FROM fate WHERE object = ? AND key = ? AND nth = 0", (table, key)
        ).fetchone()
        return row is not None and row[0] == Fate.MOVED

    def of(self, table: str, key: str) -> list[LedgerRow]:
        """The rows of one object: the first, and those of what was merged into it."""
        rows = self._db.execute(
            "SELECT object, key, kind, fate, reason, title, old, new, nth FROM fate "
            "WHERE object = ? AND key = ? ORDER BY nth",
            (table, key),
        )
        return [LedgerRow(row[0], row[1], row[2], Fate(row[3]), *row[4:]) for row in rows]

    def moved(self) -> Iterator[LedgerRow]:
        """The rows of what moved, by type, each type in the order settled."""
        return self._rows("fate = 'moved'")

    def not_moved(self) -> Iterator[LedgerRow]:
        """The rows of what did not move, by type, each type in the order settled."""
        return self._rows("fate != 'moved'")

    def all(self) -> Iterator[LedgerRow]:
        """All rows, by type, each type in the order settled."""
        return self._rows("1")

    def of_files(self) -> Iterator[LedgerRow]:
        """The rows of files, in the order settled."""
        return self._rows("object = 'media'")

    def _rows(self, condition: str) -> Iterator[LedgerRow]:
        for rank in self._ranks.values():  # going type by type avoids sorting all rows
            rows = self._db.execute(
                "SELECT object, key, kind, fate, reason, title, old, new, nth FROM fate "
                f"WHERE rank = ? AND {condition} ORDER BY rowid",
                (rank,),
            )
            for row in rows:
                yield LedgerRow(row[0], row[1], row[2], Fate(row[3]), *row[4:])

    def table_rows(self) -> Iterator[tuple[str, ...]]:
        """Rows of key, kind, title, old address, new address, fate, reason, in the order of `all`."""
        for rank in self._ranks.values():
            yield from self._db.execute(
                "SELECT key, kind, title, old, new, fate, reason FROM fate WHERE rank = ? "
                "ORDER BY rowid",
                (rank,),
            )

    def reasons(self, table: str) -> list[tuple[str, int]]:
        """Why objects of a table did not move, each with how many, the most frequent first."""
        rows = self._db.execute(
            "SELECT reason, count(*) FROM fate WHERE object = ? AND fate != 'moved' "
            "GROUP BY reason ORDER BY count(*) DESC, reason",
            (table,),
        )
        return rows.fetchall()

    def count(self) -> dict[tuple[str, str, Fate], int]:
        """How many objects met each fate: (table, kind, fate) -> number."""
        rows = self._db.execute(
            "SELECT object, kind, fate, count(*) FROM fate "
            "GROUP BY rank, kind, fate ORDER BY rank, kind, fate"
        )
        return {(table, kind, Fate(fate)): number for table, kind, fate, number in rows}
