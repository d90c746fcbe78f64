"""Where each file goes on the new host."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator


class FileReader:
    """The files, to look them up."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def get(self, key: str) -> tuple[str, str]:
        """Name and new address of a media; empty for one that does not move."""
        return self._pair("SELECT name, new FROM file WHERE key = ?", key)

    def with_name(self, name: str) -> tuple[str, str]:
        """Key and digest of the media that has a name; empty where the name is free."""
        return self._pair(
            "SELECT key, digest FROM file WHERE name = ? ORDER BY key LIMIT 1", name
        )

    def key_at(self, new: str) -> str:
        """The key of the media at an address of the new host; empty where there is none."""
        row = self._db.execute(
            "SELECT key FROM file WHERE new = ? ORDER BY key LIMIT 1", (new,)
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def unaddressed(self, last_name: str) -> list[tuple[str, str]]:
        """Path and new address of the files with this last name for which the export gives only a path."""
        rows = self._db.execute(
            "SELECT path, new FROM unaddressed_file WHERE last_name = ? COLLATE NOCASE ORDER BY path",
            (last_name,),
        )
        return [(path, new) for path, new in rows]

    def _pair(self, statement: str, value: str) -> tuple[str, str]:
        row = self._db.execute(statement, (value,)).fetchone()
        if row:
            return (row[0], row[1])
        return ("", "")


class FileTable(FileReader):
    """The files while it is decided where they go."""

    def add(self, key: str, name: str, new: str, digest: str) -> None:
        """Set the name and the address of a file on the new host."""
        self._db.execute("INSERT INTO file VALUES (?, ?, ?, ?)", (key, name, new, digest))

    def with_digest(self, digest: str) -> tuple[str, str]:
        """Key and name of the media that has these bytes; empty where none does."""
        return self._pair(
            "SELECT key, name FROM file WHERE digest = ? ORDER BY key LIMIT 1", digest
        )

    def all(self) -> Iterator[tuple[str, str]]:
        """Key and name of the files that move, each once, in the order of their keys."""
        return self._db.execute(
            "SELECT min(key), name FROM file WHERE name != '' GROUP BY name ORDER BY 1"
        )

    def add_unaddressed(self, path: str, new: str) -> None:
        """Set the new address of a file for which the export gives only a path."""
        last_name = path.rpartition("/")[2]
        self._db.execute(
            "INSERT INTO unaddressed_file VALUES (?, ?, ?)", (last_name, path, new)
        )

    def drop(self, key: str) -> None:
        """Leave out a file that had a place."""
        self._db.execute("UPDATE file SET name = '', new = '' WHERE key = ?", (key,))


class Shown:
    """The new addresses that something that moves shows or links to."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def add(self, new: str) -> None:
        """Note that something that moves shows or links to a new address."""
        self._db.execute("INSERT OR IGNORE INTO shown VALUES (?)", (new,))

    def has(self, new: str) -> bool:
        """Whether something that moves shows or links to a new address."""
        row = self._db.execute("SELECT 1 FROM shown WHERE new = ?", (new,)).fetchone()
        return row is not None
