"""What the redirects of a server are written from: the answers, the rules learnt from them, and the exceptions."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from functools import cached_property
from itertools import islice
from pathlib import Path

from msgspec.structs import astuple

from newburrow.core import url
from newburrow.redirects.answers import Answers
from newburrow.redirects.parameters import Parameters, has_several
from newburrow.redirects.rules import learning
from newburrow.redirects.rules.shape import Shape
from newburrow.store.journal.rows import REDIRECTED, OldAddress

_TOGETHER = 100_000  # spellings that are held at a time
_LONGEST = 1000  # characters of an address that is told in other spellings too
_COLUMNS = "old, new, status, why, key, new_key, other, other_key"
# an answer, its other spelling, and the key of that
_Row = tuple[str, str, int, str, str, str, str, str]


class Map:
    """All answers of a move; the rules are for a site, which most old addresses are of, as sites are compared."""

    def __init__(
        self,
        answers: Answers,
        rules: tuple[Shape, ...],
        site: str = "",
        permanent: int = REDIRECTED,
        kept: Kept | None = None,
    ) -> None:
        self.answers, self.rules, self.site = answers, rules, site
        self.permanent = permanent  # the status of a redirect: 301 or 308 (RFC 9110 sections 15.4.2 and 15.4.9)
        self._before = kept

    @classmethod
    def learnt(cls, answers: Answers, permanent: int = REDIRECTED) -> Map:
        """The map with the rules that its answers follow."""
        site, rules = learning.learn(answers)
        return cls(answers, rules, site, permanent)

    def keep(self, path: Path) -> None:
        """Write what stands before the rules into a file, for others to read by `Kept`."""
        self._before = Kept(path)
        self._before.fill(self._exceptions(), self.answers)

    def exact(self) -> Iterator[OldAddress]:
        """What stands before the rules: the answers that these do not give, and the pages that they must let pass."""
        return (row for row, _other in self._kept.rows())

    def told(self) -> Iterator[OldAddress]:
        """What a server is told before the rules: the same, also with or without the slash at the end.

        Old hosts answered both, and so do the rules. Where something else stands at the other it has its own answer.
        Letters that can be composed in two ways are told in both, and of several parameters the one that tells most.
        """
        for row, other in self._looked_up():
            yield from _composed(row)
            if other:
                yield from _composed(other)

    def looked_up(self) -> Iterator[OldAddress]:
        """What stands before the rules, with the one parameter by which an address is looked up."""
        return (row for row, _other in self._looked_up())

    def _looked_up(self) -> Iterator[tuple[OldAddress, OldAddress | None]]:
        for row, other in self._kept.rows():
            yield (self._parameters.by_one(row) if has_several(row.key) else row), other

    def others(self) -> Iterator[OldAddress]:
        """Of what a server is told those alone that have, or lack, a slash."""
        return self._kept.others()

    @property
    def has_capitals(self) -> bool:
        """Whether any address, old or new, may hold a capital letter; else none differs from another in case."""
        return self._kept.has_capitals

    @cached_property
    def _parameters(self) -> Parameters:
        return Parameters(self.answers)

    @cached_property
    def _kept(self) -> Kept:
        if self._before is None:
            self._before = Kept()
            self._before.fill(self._exceptions(), self.answers)
        return self._before

    def _exceptions(self) -> Iterator[_Row]:
        for row in learning.exceptions(self.rules, self.answers, self.site):
            yield _with_other(row, self.site)


class Kept:
    """Answers that are read several times, each with its other spelling. SQLite keeps many of them off the memory."""

    def __init__(self, path: Path | str = "") -> None:
        self._db = sqlite3.connect(path, isolation_level=None)

    def fill(self, rows: Iterable[_Row], answers: Answers) -> None:
        """Put these into it, and take out other spellings at which something else stands."""
        self._db.execute("PRAGMA synchronous = OFF")
        self._db.execute("BEGIN")
        self._db.execute(
            "CREATE TABLE kept (old TEXT, new TEXT, status INTEGER, why TEXT, key TEXT, new_key TEXT, "
            "other TEXT, other_key TEXT)"
        )
        self._db.executemany("INSERT INTO kept VALUES (?, ?, ?, ?, ?, ?, ?, ?)", rows)
        last, has_capitals = 0, False
        statement = "SELECT rowid, other_key FROM kept WHERE other != '' AND rowid > ? ORDER BY rowid LIMIT ?"
        while others := self._db.execute(statement, (last, _TOGETHER)).fetchall():
            last = others[-1][0]
            has_capitals |= self._leave_out({key: number for number, key in others}, answers)
            has_capitals |= any(not key.islower() for _number, key in others)
        if not last:
            has_capitals = self._leave_out({}, answers)
        self._db.execute("CREATE TABLE fact (capitals INTEGER)")
        self._db.execute("INSERT INTO fact VALUES (?)", (has_capitals,))
        self._db.execute("COMMIT")

    def _leave_out(self, others: dict[str, int], answers: Answers) -> bool:
        """Other spellings (key -> number) at which something else stands are not told. Tells if any has capitals."""
        found, has_capitals = set[int](), False
        for row in answers():
            for key in (row.key, row.new_key):
                if key in others:
                    found.add(others[key])
                has_capitals = has_capitals or not (key.islower() or not key)
        self._db.executemany(
            "UPDATE kept SET other = '' WHERE rowid = ?",
            [(number,) for number in sorted(found)],
        )
        return has_capitals

    @property
    def has_capitals(self) -> bool:
        """Whether any address, old or new, may hold a capital letter."""
        return bool(self._db.execute("SELECT capitals FROM fact").fetchone()[0])

    def rows(self) -> Iterator[tuple[OldAddress, OldAddress | None]]:
        """All of them, with the other spelling; there is none where something else stands there.

        What has a parameter comes first: servers that ask one after the other would take the path alone for the answer.
        """
        for which in ("", "NOT"):
            rows = self._db.execute(
                f"SELECT {_COLUMNS} FROM kept WHERE {which} instr(key, '?') ORDER BY rowid"
            )
            for *values, other, other_key in rows:
                row = OldAddress(*values)
                yield row, row.at(other, other_key) if other else None

    def others(self) -> Iterator[OldAddress]:
        """The other spellings alone."""
        rows = self._db.execute(f"SELECT {_COLUMNS} FROM kept WHERE other != '' ORDER BY rowid")
        return (OldAddress(*values).at(other, other_key) for *values, other, other_key in rows)


def _composed(row: OldAddress) -> Iterator[OldAddress]:
    """The answer, and it again for each other spelling of its letters, if it is one that all servers can be told."""
    yield row
    spelled = (
        (not row.old.isascii() or "%" in row.old)
        and _is_short(row)
        and "%2F" not in row.old.upper()
    )
    if spelled and url.path_of(row.old).isprintable():
        yield from (row.at(old) for old in islice(url.compositions(row.old), 1, None))


def _is_short(row: OldAddress) -> bool:
    return max(len(row.old), len(row.new)) < _LONGEST


def _with_other(row: OldAddress, site: str) -> _Row:
    if _is_short(row) and row.key.startswith(f"{site}/"):
        other = url.other_slash(row.old)
    else:
        other = ""
    if other:
        if row.key.endswith("/"):
            other_key = row.key.removesuffix("/")
        else:
            other_key = f"{row.key}/"
    else:
        other_key = ""
    return *astuple(row), other, other_key
