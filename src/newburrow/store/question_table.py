"""The questions that were written in a move beside those of the result, on disk until they are compared."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from pathlib import Path

_TABLES = """
    CREATE TABLE expected (name TEXT PRIMARY KEY, place TEXT, facts TEXT);
    CREATE TABLE found (name TEXT PRIMARY KEY, facts TEXT) WITHOUT ROWID;
"""


class QuestionTable:
    """A file of its own. Use as a context manager."""

    def __init__(self, path: Path) -> None:
        self._db = sqlite3.connect(path, isolation_level=None)
        self._db.execute("PRAGMA journal_mode = OFF")
        self._db.execute("PRAGMA synchronous = OFF")
        self._db.executescript(_TABLES)
        self._db.execute("BEGIN")

    def __enter__(self) -> QuestionTable:
        return self

    def __exit__(self, *_exc: object) -> None:
        self._db.execute("COMMIT")
        self._db.close()

    def expect(self, rows: Iterable[tuple[str, str, str]]) -> None:
        """Keep name, place and facts of questions that the result must have."""
        self._db.executemany("INSERT OR REPLACE INTO expected VALUES (?, ?, ?)", rows)

    def find(self, rows: Iterable[tuple[str, str]]) -> None:
        """Keep name and facts of questions that the result has; the first of several with one name counts."""
        self._db.executemany("INSERT OR IGNORE INTO found VALUES (?, ?)", rows)

    def take(self, path: Path) -> None:
        """Add what another process has found, in the table that it closed at `path`."""
        self._db.execute("COMMIT")
        self._db.execute("ATTACH ? AS other", (str(path),))
        self._db.execute("BEGIN")
        self._db.execute("INSERT OR IGNORE INTO found SELECT name, facts FROM other.found")
        self._db.execute("COMMIT")
        self._db.execute("DETACH other")
        self._db.execute("BEGIN")

    def expected(self) -> int:
        """How many questions the result must have."""
        (number,) = self._db.execute("SELECT count(*) FROM expected").fetchone()
        return int(number)

    def differing(self) -> Iterator[tuple[str, str, str]]:
        """Place, expected and found facts of those that are not the same; found is empty for one that is missing."""
        yield from self._db.execute(
            "SELECT place, expected.facts, coalesce(found.facts, '') FROM expected "
            "LEFT JOIN found ON found.name = expected.name "
            "WHERE found.facts IS NOT expected.facts ORDER BY expected.rowid"
        )
