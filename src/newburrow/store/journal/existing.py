"""What the new host holds already."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from functools import cached_property

from msgspec.structs import astuple

from newburrow.store.journal.rows import ExistingItem


class ExistingReader:
    """What the new host holds, to look it up."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    @cached_property
    def is_known(self) -> bool:
        """Whether it is known what the new host holds. Valid only once everything has been added."""
        return self._db.execute("SELECT 1 FROM existing LIMIT 1").fetchone() is not None

    def get(self, kind: str, key: str) -> ExistingItem | None:
        """What the new host has of this kind and key; None where it has nothing."""
        if not self.is_known or not key:
            return None
        row = self._db.execute(
            "SELECT title, published, address, id, login, email FROM existing WHERE kind = ? AND key = ?",
            (kind, key),
        ).fetchone()
        if row:
            return ExistingItem(*row)
        return None

    def has(self, kind: str, key: str) -> bool:
        """Whether the new host has something of this kind and key."""
        return self.get(kind, key) is not None

    def addresses(self) -> Iterator[str]:
        """The addresses of the entries that the new host has."""
        rows = self._db.execute(
            "SELECT DISTINCT address FROM existing WHERE kind = 'entry' AND address != '' "
            "ORDER BY address"
        )
        return (address for (address,) in rows.fetchall())

    def count(self, kind: str) -> int:
        """How many of a kind the new host has."""
        row = self._db.execute("SELECT count(*) FROM existing WHERE kind = ?", (kind,))
        return int(row.fetchone()[0])


class ExistingTable(ExistingReader):
    """What the new host holds, while it is learnt."""

    def add(self, kind: str, key: str, item: ExistingItem) -> None:
        """Keep that the new host has something of this key; the first of several is kept."""
        self._db.execute(
            "INSERT OR IGNORE INTO existing VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            (kind, key, *astuple(item)),
        )
