"""What the redirects of a server are written from: the answers, the rules learnt from them, and the exceptions."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from functools import cached_property
from itertools import islice

from newburrow import address
from newburrow.redirects import learning
from newburrow.redirects.answers import Answers
from newburrow.redirects.parameters import Parameters, has_several
from newburrow.redirects.shapes import Shape
from newburrow.rows import REDIRECTED, UNCHANGED, OldAddress

_TOGETHER = 100_000  # spellings that are held at a time
_LONGEST = 1000  # characters of an address that is told in other spellings too
_Row = tuple[str, str, int, str, str, str]  # of an answer, its other spelling, and the key of that


class Map:
    """All answers of a move; the rules are for a site, which most old addresses are of, as sites are compared."""

    def __init__(self, answers: Answers, rules: tuple[Shape, ...], site: str = "", permanent: int = REDIRECTED) -> None:
        self.answers, self.rules, self.site = answers, rules, site
        self.permanent = permanent  # the status of a redirect: 301 or 308 (RFC 9110 sections 15.4.2 and 15.4.9)

    @classmethod
    def learnt(cls, answers: Answers, permanent: int = REDIRECTED) -> Map:
        """The map with the rules that its answers follow."""
        site = learning.site_of(answers)
        return cls(answers, learning.learn(answers, site), site, permanent)

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
                yield from _composed(_otherwise(row, other))

    def looked_up(self) -> Iterator[OldAddress]:
        """What stands before the rules, with the one parameter by which an address is looked up."""
        return (row for row, _other in self._looked_up())

    def _looked_up(self) -> Iterator[tuple[OldAddress, str]]:
        for row, other in self._kept.rows():
            yield (self._parameters.by_one(row) if has_several(row.old) else row), other

    def others(self) -> Iterator[OldAddress]:
        """Of what a server is told those alone that have, or lack, a slash."""
        return (_otherwise(row, other) for row, other in self._kept.rows() if other)

    @cached_property
    def _parameters(self) -> Parameters:
        return Parameters(self.answers)

    @cached_property
    def _kept(self) -> _Kept:
        rows = learning.exceptions(self.rules, self.answers, self.site)
        return _Kept((_with_other(row, self.site) for row in rows), self.answers)


class _Kept:
    """Answers that are read several times, each with its other spelling. SQLite keeps many of them off the memory."""

    def __init__(self, rows: Iterable[_Row], answers: Answers) -> None:
        self._db = sqlite3.connect("")
        self._db.execute("CREATE TABLE kept (old TEXT, new TEXT, status INTEGER, why TEXT, other TEXT, key TEXT)")
        self._db.executemany("INSERT INTO kept VALUES (?, ?, ?, ?, ?, ?)", rows)
        last = 0
        statement = "SELECT rowid, key FROM kept WHERE other != '' AND rowid > ? ORDER BY rowid LIMIT ?"
        while others := self._db.execute(statement, (last, _TOGETHER)).fetchall():
            last = others[-1][0]
            self._leave_out({key: number for number, key in others}, answers)

    def _leave_out(self, others: dict[str, int], answers: Answers) -> None:
        """Other spellings (key -> number) at which something else stands are not told."""
        found = {
            others[key]
            for row in answers()
            for one in (row.old, row.new)
            if one and (key := address.key(one)) in others
        }
        self._db.executemany("UPDATE kept SET other = '' WHERE rowid = ?", [(number,) for number in sorted(found)])

    def rows(self) -> Iterator[tuple[OldAddress, str]]:
        """All of them, with the other spelling; that is empty where something else stands there.

        What has a parameter comes first: servers that ask one after the other would take the path alone for the answer.
        """
        rows = self._db.execute("SELECT old, new, status, why, other FROM kept ORDER BY instr(old, '?') = 0, rowid")
        return ((OldAddress(*row), other) for *row, other in rows)


def _composed(row: OldAddress) -> Iterator[OldAddress]:
    """The answer, and it again for each other spelling of its letters, if it is one that all servers can be told."""
    yield row
    spelled = (not row.old.isascii() or "%" in row.old) and _is_short(row) and "%2F" not in row.old.upper()
    if spelled and address.path_of(row.old).isprintable():
        yield from (_otherwise(row, old) for old in islice(address.compositions(row.old), 1, None))


def _is_short(row: OldAddress) -> bool:
    return max(len(row.old), len(row.new)) < _LONGEST


def _otherwise(row: OldAddress, other: str) -> OldAddress:
    return OldAddress(other, other if row.status == UNCHANGED else row.new, row.status, row.why)


def _with_other(row: OldAddress, site: str) -> _Row:
    other = address.other_slash(row.old) if _is_short(row) else ""
    key = address.key(other) if other else ""
    return row.old, row.new, row.status, row.why, other if key.startswith(f"{site}/") else "", key
