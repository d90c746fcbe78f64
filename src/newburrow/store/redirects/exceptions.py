"""The exceptions to the rules: old addresses that are answered one by one, before any rule."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from pathlib import Path

from newburrow.store.journal.rows import OldAddress
from newburrow.store.redirects.all_answers import AllAnswers

_TOGETHER = 100_000  # spellings that are held at a time
_COLUMNS = "old, new, status, why, key, new_key, other, other_key"
# An answer, its other spelling, and the key of that
ExceptionRow = tuple[str, str, int, str, str, str, str, str]


class Exceptions:
    """Answers that are read several times, each with its other spelling. SQLite keeps many of them off the memory."""

    def __init__(self, path: Path | str = "") -> None:
        self._db = sqlite3.connect(path, isolation_level=None)

    def fill(self, rows: Iterable[ExceptionRow], answers: AllAnswers) -> None:
        """Add these rows, and remove other spellings that are addresses of something else."""
        self._db.execute("PRAGMA synchronous = OFF")
        self._db.execute("BEGIN")
        self._db.execute(
            "CREATE TABLE exception (old TEXT, new TEXT, status INTEGER, why TEXT, key TEXT, new_key TEXT, "
            "other TEXT, other_key TEXT)"
        )
        self._db.executemany("INSERT INTO exception VALUES (?, ?, ?, ?, ?, ?, ?, ?)", rows)
        last, has_capitals = 0, False
        statement = "SELECT rowid, other_key FROM exception WHERE other != '' AND rowid > ? ORDER BY rowid LIMIT ?"
        while others := self._db.execute(statement, (last, _TOGETHER)).fetchall():
            last = others[-1][0]
            has_capitals |= self._leave_out({key: number for number, key in others}, answers)
            has_capitals |= any(not key.islower() for _number, key in others)
        if not last:
            has_capitals = self._leave_out({}, answers)
        self._db.execute("CREATE TABLE fact (capitals INTEGER)")
        self._db.execute("INSERT INTO fact VALUES (?)", (has_capitals,))
        self._db.execute("COMMIT")

    def _leave_out(self, others: dict[str, int], answers: AllAnswers) -> bool:
        """Leave out other spellings (key -> number) that something else has. Gives whether one has capitals."""
        found, has_capitals = set[int](), False
        for row in answers():
            for key in (row.key, row.new_key):
                if key in others:
                    found.add(others[key])
                has_capitals = has_capitals or not (key.islower() or not key)
        self._db.executemany(
            "UPDATE exception SET other = '' WHERE rowid = ?",
            [(number,) for number in sorted(found)],
        )
        return has_capitals

    @property
    def has_capitals(self) -> bool:
        """Whether any address, old or new, may hold a capital letter."""
        return bool(self._db.execute("SELECT capitals FROM fact").fetchone()[0])

    def rows(self) -> Iterator[tuple[OldAddress, OldAddress | None]]:
        """All of them, with the other spelling; none if that is the address of something else.

        What has a parameter comes first: servers that ask one after the other would take the path alone for the answer.
        """
        for which in ("", "NOT"):
            rows = self._db.execute(
                f"SELECT {_COLUMNS} FROM exception WHERE {which} instr(key, '?') ORDER BY rowid"
            )
            for *values, other, other_key in rows:
                row = OldAddress(*values)
                yield row, row.at(other, other_key) if other else None

    def others(self) -> Iterator[OldAddress]:
        """The other spellings alone."""
        rows = self._db.execute(
            f"SELECT {_COLUMNS} FROM exception WHERE other != '' ORDER BY rowid"
        )
        return (OldAddress(*values).at(other, other_key) for *values, other, other_key in rows)
