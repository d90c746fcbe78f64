"""The questions that were written in a move, as they must be when the result is read back."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator


class QuestionTable:
    """On disk, in a file that goes away with the connection."""

    def __init__(self) -> None:
        self._db = sqlite3.connect("", isolation_level=None)
        self._db.execute(
            "CREATE TABLE expected (name TEXT PRIMARY KEY, place TEXT, facts TEXT)"
        )

    def add(self, rows: Iterable[tuple[str, str, str]]) -> None:
        """Keep name, place and facts of questions."""
        self._db.executemany("INSERT OR REPLACE INTO expected VALUES (?, ?, ?)", rows)

    def is_empty(self) -> bool:
        """Whether there are none, or none left."""
        return self._db.execute("SELECT 1 FROM expected LIMIT 1").fetchone() is None

    def take(self, name: str) -> tuple[str, str] | None:
        """Place and facts of a question, which is then no longer here; None where there is none of that name."""
        row = self._db.execute(
            "SELECT place, facts FROM expected WHERE name = ?", (name,)
        ).fetchone()
        if row is None:
            return None
        self._db.execute("DELETE FROM expected WHERE name = ?", (name,))
        return str(row[0]), str(row[1])

    def places(self) -> Iterator[str]:
        """The places of those that are left."""
        for (place,) in self._db.execute("SELECT place FROM expected ORDER BY rowid"):
            yield place
