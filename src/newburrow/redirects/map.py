"""What the redirects of a server are written from: the answers, the rules learnt from them, and the exceptions."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from functools import cached_property

from msgspec.structs import astuple

from newburrow.journal import OldAddress
from newburrow.redirects import learning
from newburrow.redirects.answers import Answers
from newburrow.redirects.shapes import Shape


class Map:
    """All answers of a move; the rules are for a site, which most old addresses are of, as sites are compared."""

    def __init__(self, answers: Answers, rules: tuple[Shape, ...], site: str = "") -> None:
        self.answers, self.rules, self.site = answers, rules, site

    @classmethod
    def learnt(cls, answers: Answers) -> Map:
        """The map with the rules that its answers follow."""
        site = learning.site_of(answers)
        return cls(answers, learning.learn(answers, site), site)

    def exact(self) -> Iterator[OldAddress]:
        """What stands before the rules: the answers that these do not give, and the pages that they must let pass."""
        return self._exact.rows()

    @cached_property
    def _exact(self) -> _Kept:
        return _Kept(learning.exceptions(self.rules, self.answers, self.site))


class _Kept:
    """Answers kept to be read several times. SQLite keeps many of them off the memory."""

    def __init__(self, rows: Iterable[OldAddress]) -> None:
        self._db = sqlite3.connect("")
        self._db.execute("CREATE TABLE kept (old TEXT, new TEXT, status INTEGER, why TEXT)")
        self._db.executemany("INSERT INTO kept VALUES (?, ?, ?, ?)", map(astuple, rows))

    def rows(self) -> Iterator[OldAddress]:
        """All of them, in their order."""
        rows = self._db.execute("SELECT old, new, status, why FROM kept ORDER BY rowid")
        return (OldAddress(*row) for row in rows)
