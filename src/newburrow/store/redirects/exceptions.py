"""The exceptions to the rules: old addresses that are answered one by one, before any rule."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterable, Iterator
from copy import copy
from pathlib import Path

from newburrow.store.journal.rows import OldAddress
from newburrow.store.redirects.all_answers import AllAnswers

_COLUMNS = "old, new, status, why, key, new_key, other"
_OF_SITE = "key >= ? AND key < ?"  # a slash and what follows it
# An answer, whether a rule would answer otherwise, whether it is for servers that cannot lower letters and for those
# that can, and the other spelling
ExceptionRow = tuple[str, str, int, str, str, str, bool, bool, bool, str]
AnswerPair = tuple[OldAddress, OldAddress | None]  # an answer, and that for the other spelling


class Exceptions:
    """Answers that are read several times, each with its other spelling. SQLite keeps many of them off the memory."""

    def __init__(self, path: Path | str = "") -> None:
        self._db = sqlite3.connect(path, isolation_level=None)
        self._kept = f"kept AND plain AND {_OF_SITE}"

    def lowering(self) -> Exceptions:
        """Those for servers that can lower letters; all others are for those that cannot."""
        found = copy(self)
        found._kept = f"kept AND lowering AND {_OF_SITE}"
        return found

    def fill(
        self,
        rows: Iterable[ExceptionRow],
        answers: AllAnswers,
        twins: frozenset[str],
        has_capitals: bool,
    ) -> None:
        """Add these rows, and remove other spellings that are addresses of something else.

        `twins` are keys, without a slash at their end, that more than one address may have.
        """
        self._db.execute("PRAGMA synchronous = OFF")
        self._db.execute("BEGIN")
        self._db.execute(
            "CREATE TABLE exception (old TEXT, new TEXT, status INTEGER, why TEXT, key TEXT, new_key TEXT, "
            "guards INTEGER, plain INTEGER, lowering INTEGER, other TEXT, kept INTEGER DEFAULT 1)"
        )
        doubtful = dict[str, int]()
        self._db.executemany(
            "INSERT INTO exception VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 1)",
            _noting(rows, twins, doubtful),
        )
        self._leave_out(doubtful, answers)
        self._db.execute("CREATE TABLE fact (capitals INTEGER)")
        self._db.execute("INSERT INTO fact VALUES (?)", (has_capitals,))
        self._db.execute("COMMIT")

    def _leave_out(self, others: dict[str, int], answers: AllAnswers) -> None:
        """Leave out other spellings (key -> number) that something else has."""
        found = {
            others[key]
            for row in (answers() if others else ())
            for key in (row.key, row.new_key)
            if key in others
        }
        self._db.executemany(
            "UPDATE exception SET other = '' WHERE rowid = ?",
            [(number,) for number in sorted(found)],
        )

    def limit(
        self, site: str, most: int, lines_of: Callable[[OldAddress, OldAddress | None], int]
    ) -> None:
        """Keep only as many addresses of a site as come to so many lines: first those that no rule may answer."""
        left = most
        order = f"WHERE {self._kept} ORDER BY guards DESC, rowid"
        rows = self._db.execute(
            f"SELECT rowid, {_COLUMNS} FROM exception {order}", (f"{site}/", f"{site}0")
        ).fetchall()
        for number, *values, other in rows:
            row = OldAddress(*values)
            left -= lines_of(row, row.at(other, _other_key(row.key)) if other else None)
            if left < 0:
                self._db.execute("UPDATE exception SET kept = 0 WHERE rowid = ?", (number,))

    def count(self, site: str) -> int:
        """How many addresses of a site are kept."""
        found = self._db.execute(
            f"SELECT count(*) FROM exception WHERE {self._kept}", (f"{site}/", f"{site}0")
        ).fetchone()
        return int(found[0])

    def size(self) -> tuple[int, int]:
        """How many addresses there are, of all sites, and the bytes of the longest."""
        found = self._db.execute(
            "SELECT count(*), max(length(CAST(old AS BLOB))) FROM exception"
        ).fetchone()
        return int(found[0]), int(found[1] or 0)

    def guards(self, site: str) -> int:
        """How many addresses of a site a rule would answer otherwise."""
        found = self._db.execute(
            f"SELECT sum(guards) FROM exception WHERE {_OF_SITE}", (f"{site}/", f"{site}0")
        ).fetchone()
        return int(found[0] or 0)

    def left_out(self, site: str) -> Iterator[OldAddress]:
        """What `limit` did not keep."""
        rows = self._db.execute(
            f"SELECT old, new, status, why, key, new_key FROM exception WHERE kept = 0 AND {_OF_SITE} "
            "ORDER BY rowid",
            (f"{site}/", f"{site}0"),
        )
        return (OldAddress(*values) for values in rows)

    @property
    def has_capitals(self) -> bool:
        """Whether any address, old or new, may hold a capital letter."""
        return bool(self._db.execute("SELECT capitals FROM fact").fetchone()[0])

    @property
    def has_merged(self) -> bool:
        """Whether any address has slashes that servers may see as one: an encoded one, or several together."""
        merged = "instr(upper(old), '%2F') OR instr(substr(old, 9), '//')"
        return bool(
            self._db.execute(f"SELECT 1 FROM exception WHERE {merged} LIMIT 1").fetchone()
        )

    def rows(self, site: str) -> Iterator[AnswerPair]:
        """All of a site, with the other spelling; none if that is the address of something else.

        Those with a query come first: servers that ask one after the other would take the path alone for the answer.
        """
        yield from self.with_query(site)
        yield from self.without_query(site)

    def with_query(self, site: str) -> Iterator[AnswerPair]:
        """Those of `rows` whose address has a query; what has the most parameters comes first."""
        query = "substr(key, instr(key, '?'))"
        number = f"length({query}) - length(replace({query}, '&', ''))"
        return self._rows(site, "instr(key, '?')", f"{number} DESC, rowid")

    def without_query(self, site: str) -> Iterator[AnswerPair]:
        """Those of `rows` whose address is a path alone."""
        return self._rows(site, "NOT instr(key, '?')", "rowid")

    def _rows(self, site: str, which: str, order: str) -> Iterator[AnswerPair]:
        rows = self._db.execute(
            f"SELECT {_COLUMNS} FROM exception WHERE {which} AND {self._kept} ORDER BY {order}",
            (f"{site}/", f"{site}0"),
        )
        for old, new, status, why, key, new_key, other in rows:
            row = OldAddress(old, new, status, why, key, new_key)
            yield row, row.at(other, _other_key(key)) if other else None

    def others(self, site: str) -> Iterator[OldAddress]:
        """The other spellings alone, of a site."""
        rows = self._db.execute(
            f"SELECT {_COLUMNS} FROM exception WHERE other != '' AND {self._kept} ORDER BY rowid",
            (f"{site}/", f"{site}0"),
        )
        found = ((OldAddress(*values), other) for *values, other in rows)
        return (row.at(other, _other_key(row.key)) for row, other in found)


def _other_key(key: str) -> str:
    """The key of the same address with or without the slash at its end."""
    if key.endswith("/"):
        return key[:-1]
    return f"{key}/"


def _noting(
    rows: Iterable[ExceptionRow], twins: frozenset[str], doubtful: dict[str, int]
) -> Iterator[ExceptionRow]:
    """The rows, and on the way in `doubtful` the other spellings (key -> number) that something else may have."""
    for number, row in enumerate(rows, 1):
        if row[-1] and row[4].rstrip("/") in twins:
            doubtful[_other_key(row[4])] = number
        yield row
