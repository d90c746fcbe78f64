"""Which addresses a table has named before, and in which line."""

from __future__ import annotations

import sqlite3


class SeenKeys:
    """The keys of addresses with the line that named each first. Use as a context manager."""

    def __init__(self) -> None:
        self._db = sqlite3.connect("")
        self._db.execute("CREATE TABLE seen (key TEXT PRIMARY KEY, line INTEGER) WITHOUT ROWID")

    def __enter__(self) -> SeenKeys:
        return self

    def __exit__(self, *_exc: object) -> None:
        self._db.close()

    def add(self, key: str, line: int) -> int:
        """Note that a line names an address; gives the first line that did."""
        done = self._db.execute("INSERT OR IGNORE INTO seen VALUES (?, ?)", (key, line))
        if done.rowcount:
            return line
        row = self._db.execute("SELECT line FROM seen WHERE key = ?", (key,)).fetchone()
        return int(row[0])
