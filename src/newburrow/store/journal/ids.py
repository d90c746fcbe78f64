"""The ids that objects get on the new host."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator


class IdReader:
    """The ids, to look them up."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def get(self, table: str, key: str) -> str:
        """The id of an object on the new host; empty where none was given."""
        row = self._db.execute(
            "SELECT new FROM id WHERE object = ? AND key = ?", (table, key)
        ).fetchone()
        if row:
            return str(row[0])
        return ""


class IdTable(IdReader):
    """The ids while they are given."""

    def add(self, table: str, key: str, new: str) -> bool:
        """Give an object its id on the new host; False where another object has that id."""
        done = self._db.execute("INSERT OR IGNORE INTO id VALUES (?, ?, ?)", (table, key, new))
        return bool(done.rowcount)

    def add_kept(self, table: str, key: str, new: str) -> None:
        """Give an object the id that the new host has it under, as soon as all have their place."""
        self._db.execute("INSERT INTO kept_id VALUES (?, ?, ?)", (new, table, key))

    def all(self) -> Iterator[tuple[str, str, str]]:
        """All ids given: table, key, id."""
        return self._db.execute("SELECT object, key, new FROM id ORDER BY object, key")
