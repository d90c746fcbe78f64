"""The places within pages, by page: kept in a file that goes away, since a site can have very many."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

_TABLES = """
CREATE TABLE page (key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE place (page TEXT, name TEXT, PRIMARY KEY (page, name)) WITHOUT ROWID;
"""


class PagePlaces:
    """The names of the places within pages."""

    def __init__(self) -> None:
        self._db = sqlite3.connect("", isolation_level=None)  # a temporary file of SQLite's own
        self._db.execute("PRAGMA journal_mode = OFF")
        self._db.executescript(_TABLES)

    def knows(self, page: str) -> bool:
        """Whether the places of a page were added."""
        row = self._db.execute("SELECT 1 FROM page WHERE key = ?", (page,)).fetchone()
        return row is not None

    def add(self, page: str, names: Iterable[str]) -> None:
        """Add a page with the names of its places."""
        self._db.execute("INSERT OR IGNORE INTO page VALUES (?)", (page,))
        self._db.executemany(
            "INSERT OR IGNORE INTO place VALUES (?, ?)", ((page, name) for name in names)
        )

    def has(self, page: str, names: Iterable[str]) -> bool:
        """Whether a page has a place of one of these names."""
        return any(
            self._db.execute(
                "SELECT 1 FROM place WHERE page = ? AND name = ?", (page, name)
            ).fetchone()
            for name in names
        )
