"""Addresses with several parameters in their query: each is known by the one that sets it apart.

`/index.php?id=35&view=x` is asked for with its parameters in any order and with further ones; where no other answer has
the same path and `id=35`, that parameter alone is what a server looks up.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

from newburrow.core import url
from newburrow.store.journal.rows import OldAddress
from newburrow.store.redirects.all_answers import AllAnswers

_Pair = tuple[str, str]  # name and value of a parameter


class Parameters:
    """What the parameters of all old addresses tell. SQLite keeps many of them off the memory."""

    def __init__(self, answers: AllAnswers) -> None:
        self._db = sqlite3.connect("")
        self._db.execute("CREATE TABLE part (path TEXT, name TEXT, value TEXT, answer TEXT)")
        self._db.executemany("INSERT INTO part VALUES (?, ?, ?, ?)", _parts(answers))
        self._db.execute(
            "CREATE TABLE sure (path TEXT, name TEXT, value TEXT, PRIMARY KEY (path, name, value))"
        )
        self._db.execute(
            "INSERT INTO sure SELECT path, name, value FROM part GROUP BY path, name, value "
            "HAVING count(DISTINCT answer) = 1"
        )
        self._db.execute(
            "CREATE TABLE spread (path TEXT, name TEXT, many INTEGER, PRIMARY KEY (path, name))"
        )
        self._db.execute(
            "INSERT INTO spread SELECT path, name, count(*) FROM sure GROUP BY path, name"
        )

    def by_one(self, row: OldAddress) -> OldAddress:
        """The same answer for the address with one parameter; the answer as it is where no single one is enough."""
        path, pairs = _taken_apart(row.key)
        if len(pairs) < 2:
            return row
        found = sorted(
            (-many, name, value)
            for name, value in pairs
            if (many := self._many(path, name, value))
        )
        if not found:
            return row
        _many, name, value = found[0]
        scheme = row.old.partition("://")[0]
        return OldAddress(f"{scheme}://{path}?{name}={value}", row.new, row.status, row.why)

    def _many(self, path: str, name: str, value: str) -> int:
        """In how many values this parameter is enough on a path; 0 where it is not for this one."""
        found = self._db.execute(
            "SELECT many FROM spread JOIN sure USING (path, name) WHERE path = ? AND name = ? AND value = ?",
            (path, name, value),
        ).fetchone()
        if found:
            return int(found[0])
        return 0


def has_several(key: str) -> bool:
    """Whether an address (by its key) has several parameters."""
    return "&" in key and len(_taken_apart(key)[1]) > 1


def _taken_apart(key: str) -> tuple[str, list[_Pair]]:
    path, _mark, query = key.partition("?")
    return path, url.query_pairs(query)


def _parts(answers: AllAnswers) -> Iterator[tuple[str, str, str, str]]:
    for row in answers():
        if "?" in row.key:
            path, pairs = _taken_apart(row.key)
            yield from (
                (path, name, value, f"{row.status} {row.new}")
                for name, value in dict.fromkeys(pairs)
            )
