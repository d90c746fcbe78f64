"""What entries leave behind that is written when all of them are converted."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator


class DataLines:
    """The lines of the data file: what the new host has no place for."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def add(self, line: str) -> None:
        """Keep one line."""
        self._db.execute("INSERT INTO data_line VALUES (?)", (line,))

    def all(self) -> Iterator[str]:
        """The lines in the order added."""
        rows = self._db.execute("SELECT data FROM data_line ORDER BY rowid")
        return (line for (line,) in rows)


class TermLists:
    """The entries that are listed on the page that a term becomes."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def add(self, term: str, title: str, new: str) -> None:
        """List an entry, by title and new address, on the page of the term of this key."""
        self._db.execute("INSERT INTO term_list VALUES (?, ?, ?)", (term, title, new))

    def of(self, term: str) -> list[tuple[str, str]]:
        """Title and address of the entries on the page of a term, in the order added."""
        rows = self._db.execute(
            "SELECT title, new FROM term_list WHERE term = ? ORDER BY rowid", (term,)
        )
        return rows.fetchall()
