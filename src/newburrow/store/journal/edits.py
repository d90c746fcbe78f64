"""What a person's table says of single entries."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

import msgspec


class EditReader:
    """The rows of the table, to look them up."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def get(self, key: str) -> dict[str, str] | None:
        """The cells of an entry's row by their column; None where it has no row."""
        row = self._db.execute("SELECT data FROM edit WHERE key = ?", (key,)).fetchone()
        if row:
            return msgspec.json.decode(row[0], type=dict[str, str])
        return None


class EditTable(EditReader):
    """The rows of the table, while they are read."""

    def add(self, key: str, line: int, cells: dict[str, str]) -> None:
        """Keep the row of an entry."""
        data = msgspec.json.encode(cells).decode()
        self._db.execute("INSERT OR REPLACE INTO edit VALUES (?, ?, ?)", (key, line, data))

    def lines(self) -> Iterator[tuple[str, int]]:
        """The keys of the entries that the table names, each with its line."""
        rows = self._db.execute("SELECT key, line FROM edit ORDER BY line").fetchall()
        return iter(rows)
