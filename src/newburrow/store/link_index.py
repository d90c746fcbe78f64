"""What bodies link to and what answers there: told at the end, for all at once, by tables on disk."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from pathlib import Path

from newburrow.core import url
from newburrow.store.journal.rows import UNCHANGED, OldAddress

_BATCH = 2000  # rows written at a time


class LinkIndex:
    """What bodies lead to, and what answers there."""

    def __init__(self, sites: Sequence[str], path: Path | None = None) -> None:
        """`path` is that of the file where another is to take it; without one the file goes when this is closed."""
        self._hosts = {key for site in sites if (key := url.site_key(site))}
        self.base = next(iter(sites), "")
        self._db = sqlite3.connect(path or "", isolation_level=None)
        self._db.execute("PRAGMA journal_mode = OFF")
        self._db.execute("PRAGMA synchronous = OFF")
        self._db.execute("BEGIN")
        self._db.execute("CREATE TABLE link (key TEXT, value TEXT, tag TEXT, entry TEXT)")
        self._db.execute("CREATE TABLE known (key TEXT, old TEXT)")
        self._db.execute("CREATE TABLE title (kind TEXT, title TEXT)")
        self._db.execute("CREATE TABLE beside (base TEXT, path TEXT, new TEXT)")
        self._db.execute("CREATE TABLE bytes (digest TEXT PRIMARY KEY)")
        self._db.execute("CREATE TABLE shown (new TEXT)")
        self._rows: dict[str, list[tuple[str, ...]]] = {
            "link": [],
            "known": [],
            "title": [],
            "beside": [],
            "shown": [],
        }

    def __enter__(self) -> LinkIndex:
        return self

    def __exit__(self, *_exc: object) -> None:
        self._db.close()

    def written(self) -> None:
        """Finish writing, so that another index can take this one in."""
        for table in self._rows:
            self._write(table)
        self._db.execute("COMMIT")

    def take(self, path: Path) -> None:
        """Add what another index has written to a file."""
        for table in self._rows:
            self._write(table)
        self._db.execute("COMMIT")
        self._db.execute("ATTACH ? AS other", (str(path),))
        for table in self._rows:
            self._db.execute(f"INSERT INTO {table} SELECT * FROM other.{table}")
        self._db.execute("DETACH other")
        self._db.execute("BEGIN")

    def _add(self, table: str, *values: str) -> None:
        rows = self._rows[table]
        rows.append(values)
        if len(rows) >= _BATCH:
            self._write(table)

    def _write(self, table: str) -> None:
        rows = self._rows[table]
        if rows:
            places = ", ".join("?" * len(rows[0]))
            self._db.executemany(f"INSERT INTO {table} VALUES ({places})", rows)
            rows.clear()

    def know(self, *addresses: str) -> None:
        """Note that the export has something at these addresses."""
        for address in addresses:
            if key := url.key(address):
                self._add("known", key, address)

    def title(self, kind: str, title: str) -> None:
        """Note the title of an entry."""
        self._add("title", kind, title)

    def link(self, tag: str, value: str, base: str, entry: str) -> str:
        """Note a link in a body. Gives the host if it leads to another site; empty otherwise."""
        value = value.strip()
        if not value or value[0] == "#":
            return ""
        key = url.key(url.resolve(base or self.base, value))
        host = key.partition("/")[0]
        if host in self._hosts:
            self._add("link", key, value, tag, entry)
            return ""
        return host

    def new_bytes(self, digest: str) -> bool:
        """Whether no file had these bytes before."""
        return (
            self._db.execute("INSERT OR IGNORE INTO bytes VALUES (?)", (digest,)).rowcount > 0
        )

    def add_unaddressed(self, path: str, new: str) -> None:
        """Note a file for which the export gives only a path."""
        self._add("beside", path.rpartition("/")[2], path, new)

    def unaddressed(self, base: str) -> list[tuple[str, str]]:
        """Path and address of the files without an address that have this last name."""
        return self._db.execute(
            "SELECT path, new FROM beside WHERE base = ? COLLATE NOCASE ORDER BY path", (base,)
        ).fetchall()

    def get(self, key: str) -> OldAddress | None:
        """What the export has at an address; None if it has nothing there."""
        row = self._db.execute("SELECT old FROM known WHERE key = ? LIMIT 1", (key,)).fetchone()
        if row:
            return OldAddress.of(row[0], row[0], UNCHANGED, "", key, key)
        return None

    def in_any_case(self, key: str) -> OldAddress | None:
        """What the export has at the addresses that differ from this one in letter case alone; None for several."""
        rows = self._db.execute(
            "SELECT DISTINCT key, old FROM known WHERE lower(key) = lower(?) LIMIT 2", (key,)
        ).fetchall()
        if len(rows) != 1:
            return None
        found, old = rows[0]
        return OldAddress.of(old, old, UNCHANGED, "", found, found)

    def add(self, row: OldAddress) -> None:
        """Remember what was found at an address."""
        self._db.execute("INSERT INTO known VALUES (?, ?)", (row.key, row.new))

    def show(self, new: str) -> None:
        """Note that an entry shows the file with this key, address or path."""
        self._add("shown", new)

    def is_shown(self, new: str) -> bool:
        """Whether an entry shows the file with this key, address or path."""
        self._write("shown")
        return (
            self._db.execute("SELECT 1 FROM shown WHERE new = ? LIMIT 1", (new,)).fetchone()
            is not None
        )

    def settle(self) -> None:
        """Everything has been added: build the indexes."""
        for table in self._rows:
            self._write(table)
        self._db.execute("CREATE INDEX known_key ON known (key)")
        self._db.execute("CREATE INDEX known_in_any_case ON known (lower(key))")
        self._db.execute("CREATE INDEX link_key ON link (key)")
        self._db.execute("CREATE INDEX beside_base ON beside (base COLLATE NOCASE)")
        self._db.execute("CREATE INDEX shown_new ON shown (new)")

    def unanswered(self) -> Iterator[tuple[str, str, str]]:
        """Links to addresses at which the export has nothing: tag, value, key of the entry; in the order found."""
        last = 0
        statement = (
            "SELECT rowid, tag, value, entry FROM link WHERE rowid > ? "
            "AND NOT EXISTS (SELECT 1 FROM known WHERE known.key = link.key) ORDER BY rowid LIMIT ?"
        )
        while rows := self._db.execute(statement, (last, _BATCH)).fetchall():
            for _number, tag, value, entry in rows:
                yield tag, value, entry
            last = rows[-1][0]

    def is_linked(self, *addresses: str) -> bool:
        """Whether a body leads to one of these addresses."""
        keys = [key for address in addresses if (key := url.key(address))]
        return any(
            self._db.execute("SELECT 1 FROM link WHERE key = ? LIMIT 1", (key,)).fetchone()
            for key in keys
        )

    def same_titles(self) -> Iterator[tuple[str, int]]:
        """Titles that several entries of one kind have, with how many more than one."""
        rows = self._db.execute(
            "SELECT title, count(*) - 1 FROM title GROUP BY kind, title HAVING count(*) > 1 ORDER BY min(rowid)"
        )
        return ((title, more) for title, more in rows)
