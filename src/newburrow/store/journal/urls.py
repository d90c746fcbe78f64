"""The answer to every old address."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

from msgspec.structs import astuple

from newburrow.store.journal.rows import (
    GONE,
    NOT_PUBLIC,
    PERMALINK,
    REDIRECTED,
    UNCHANGED,
    OldAddress,
)

_COLUMNS = "old, new, status, why, key, new_key"
_MOST_ALIKE = 10  # addresses that differ in letter case alone
_BATCH = 500  # rows fetched at a time
_LONGEST_CHAIN = 20  # answers that lead to each other


class UrlReader:
    """The answers, to look them up."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def get(self, key: str) -> OldAddress | None:
        """The answer to an old address, by the key of that; None where it is unknown."""
        row = self._db.execute(f"SELECT {_COLUMNS} FROM url WHERE key = ?", (key,)).fetchone()
        if row:
            return OldAddress(*row)
        return None

    def in_any_case(self, key: str) -> OldAddress | None:
        """The answer to the old addresses that differ from this one in letter case alone; None if they differ in it."""
        rows = self._db.execute(
            f"SELECT {_COLUMNS} FROM url WHERE lower(key) = lower(?) ORDER BY key LIMIT ?",
            (key, _MOST_ALIKE),
        )
        found = [OldAddress(*row) for row in rows]
        if len({(row.new, row.status == GONE) for row in found}) == 1:
            return found[0]
        return None

    def all(self) -> Iterator[OldAddress]:
        """All public old addresses with their answers, the most visited first, in the order of their keys."""
        visited = self._db.execute("SELECT 1 FROM visit LIMIT 1").fetchone() is not None
        order = "ORDER BY key"
        if visited:
            order = "LEFT JOIN visit USING (key) ORDER BY coalesce(visits, 0) DESC, key"
        order = order.replace("ORDER", "WHERE why != ? ORDER")
        rows = self._db.execute(f"SELECT {_COLUMNS} FROM url {order}", (NOT_PUBLIC,))
        return (OldAddress(*row) for row in rows)

    def leading_to(self, new_key: str) -> list[OldAddress]:
        """The answers that lead to a new address, by its key."""
        rows = self._db.execute(
            f"SELECT {_COLUMNS} FROM url WHERE new_key = ? ORDER BY key", (new_key,)
        )
        return [OldAddress(*row) for row in rows]

    def not_public(self) -> Iterator[tuple[str, str]]:
        """Old and new addresses of what no visitor can see, which servers are not told."""
        return self._db.execute(
            "SELECT old, new FROM url WHERE why = ? AND new != '' ORDER BY key", (NOT_PUBLIC,)
        )


class UrlTable(UrlReader):
    """The answers while they are decided."""

    def add(self, row: OldAddress) -> OldAddress | None:
        """Set the answer to an old address; gives the other answer that is there already."""
        done = self._db.execute(
            "INSERT OR IGNORE INTO url VALUES (?, ?, ?, ?, ?, ?)", astuple(row)
        )
        if done.rowcount:
            return None
        return self.get(row.key)

    def add_free(self, rows: list[tuple[OldAddress, str]]) -> bool:
        """Set the answers to addresses that have none and are not the new address of another entry.

        Each comes with the key of its own entry. Tells whether all are set; `get` and
        `PlanReader.key_at` say what stood in the way of the others.
        """
        done = self._db.executemany(
            "INSERT OR IGNORE INTO url SELECT ?1, ?2, ?3, ?4, ?5, ?6 "
            "WHERE NOT EXISTS (SELECT 1 FROM place WHERE new_key = ?5 AND key != ?7)",
            [(*astuple(row), owner) for row, owner in rows],
        )
        return done.rowcount == len(rows)

    def add_late(self, row: OldAddress) -> None:
        """Keep an answer that is set by `set_late`, when no other process reads the plan any more."""
        self._db.execute(
            "INSERT OR IGNORE INTO late_url VALUES (?, ?, ?, ?, ?, ?)", astuple(row)
        )

    def set_late(self) -> None:
        """Set the answers that `add_late` kept."""
        self._db.execute("INSERT OR IGNORE INTO url SELECT * FROM late_url ORDER BY key")

    def shorten(self) -> None:
        """Let no answer lead to an address that is answered again: each takes the answer at its end.

        Where two lead to each other, what stands there is left to the server.
        """
        for _step in range(_LONGEST_CHAIN):
            done = self._db.execute(
                "UPDATE url SET new = v.new, status = v.status, new_key = v.new_key, "
                "why = CASE v.status WHEN ?2 THEN v.why ELSE url.why END FROM url v "
                "WHERE v.key = url.new_key AND url.status = ?1 AND v.key != url.key AND v.status != ?3",
                (REDIRECTED, GONE, UNCHANGED),
            )
            if not done.rowcount:
                break
        self._db.execute(
            "UPDATE url SET new = old, new_key = key, status = ?2 WHERE status = ?1 AND (new_key = key "
            "OR EXISTS (SELECT 1 FROM url v WHERE v.key = url.new_key AND v.status = ?1))",
            (REDIRECTED, UNCHANGED),
        )

    def has_permalink_outside(self, folder: str) -> bool:
        """Whether an entry of the same host had its address outside of a folder, which is given by its key."""
        host = folder.partition("/")[0]
        row = self._db.execute(
            "SELECT 1 FROM url WHERE key > ?1 || '/' AND key < ?1 || '0' AND why = ?2 "
            "AND substr(key, 1, length(?3)) != ?3 LIMIT 1",
            (host, PERMALINK, folder.rstrip("/")),
        ).fetchone()
        return row is not None

    def ending_in(self, end: str) -> Iterator[OldAddress]:
        """The answers to old addresses without a query that end in a text, in any letter case.

        Others may be set meanwhile.
        """
        statement = (
            f"SELECT {_COLUMNS} FROM url WHERE key > ? AND key LIKE ? AND instr(key, '?') = 0 "
            f"ORDER BY key LIMIT {_BATCH}"
        )
        last = ""
        while rows := [
            OldAddress(*row) for row in self._db.execute(statement, (last, f"%{end}"))
        ]:
            yield from rows
            last = rows[-1].key

    def count(self) -> dict[int, int]:
        """How many old addresses there are for each status."""
        rows = self._db.execute(
            "SELECT status, count(*) FROM url WHERE why != ? GROUP BY status ORDER BY status",
            (NOT_PUBLIC,),
        )
        return dict(rows.fetchall())

    def add_visits(self, key: str, visits: int) -> None:
        """Keep how often an old address was visited."""
        self._db.execute("INSERT INTO visit VALUES (?, ?)", (key, visits))

    def count_visits(self) -> dict[int, int]:
        """How many visits there were to the addresses of each status; empty where none are known."""
        rows = self._db.execute(
            "SELECT status, sum(visits) FROM visit JOIN url USING (key) GROUP BY status"
        )
        return dict(rows.fetchall())

    def drop(self, new: str, status: int, why: str) -> None:
        """Give the old addresses that lead to a new one another status, and no new address."""
        self._db.execute(
            "UPDATE url SET new = '', new_key = '', status = ?, why = ? WHERE new = ?",
            (status, why, new),
        )
