"""Old addresses that are known from elsewhere, with their visits: a log grows with these."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

_BATCH = 500  # rows fetched at a time


class KnownUrls:
    """Addresses known from redirects, sitemaps, lists and logs."""

    def __init__(self) -> None:
        self._db = sqlite3.connect("")
        self._db.execute(
            "CREATE TABLE known (key TEXT PRIMARY KEY, address TEXT, target TEXT, visits INTEGER, "
            "gone INTEGER) "
            "WITHOUT ROWID"
        )
        self._db.execute("CREATE TABLE unknown (address TEXT, visits INTEGER)")

    def add(
        self, key: str, address: str, target: str, visits: int, is_gone: bool = False
    ) -> None:
        """Keep an address by its key; visits add up, and the first target that is not empty counts."""
        self._db.execute(
            "INSERT INTO known VALUES (?, ?, ?, ?, ?) "
            "ON CONFLICT DO UPDATE SET visits = visits + excluded.visits, gone = max(gone, excluded.gone), "
            "target = CASE WHEN target = '' THEN excluded.target ELSE target END",
            (key, address, target, visits, is_gone),
        )

    def target_of(self, key: str) -> str:
        """The address to which the old site redirects an address; empty if it does not or that is not known."""
        row = self._db.execute("SELECT target FROM known WHERE key = ?", (key,)).fetchone()
        if row:
            return str(row[0])
        return ""

    def all(self) -> Iterator[tuple[str, str, str, int, bool]]:
        """Key, address, target and visits of all addresses, and if they are gone, in the order of their keys."""
        last = ""
        statement = f"SELECT * FROM known WHERE key > ? ORDER BY key LIMIT {_BATCH}"
        while rows := self._db.execute(statement, (last,)).fetchall():
            for *facts, gone in rows:
                yield (*facts, bool(gone))
            last = rows[-1][0]

    def add_unknown(self, address: str, visits: int) -> None:
        """Note that the export has nothing at an address."""
        self._db.execute("INSERT INTO unknown VALUES (?, ?)", (address, visits))

    def unknown(self) -> Iterator[tuple[str, int]]:
        """The addresses where the export has nothing with their visits, the most visited first."""
        yield from self._db.execute(
            "SELECT address, visits FROM unknown ORDER BY visits DESC, address"
        )
