"""What a person must still do or know."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

from newburrow.core.codes import Severity
from newburrow.core.problem import Problem

_RANKS = {severity: rank for rank, severity in enumerate(Severity)}


class FollowUps:
    """The follow-ups of a move."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def add(self, *problems: Problem) -> None:
        """Keep things that a person must still do or know."""
        self._db.executemany(
            "INSERT INTO follow_up (severity, rank, code, message, advice, file, line, object, key) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            map(_values, problems),
        )

    def rows(self) -> Iterator[tuple[str, str, str, str, str, str, str]]:
        """Rows of code, severity, title, old address, new address, what, suggestion; the worst first."""
        return self._db.execute(
            "SELECT u.code, u.severity, coalesce(f.title, ''), coalesce(f.old, ''), "
            "coalesce(f.new, ''), u.message, u.advice FROM follow_up u LEFT JOIN fate f "
            "ON f.object = u.object AND f.key = u.key AND f.nth = 0 "
            "ORDER BY u.rank DESC, u.code, u.seq"
        )

    def count(self) -> dict[str, int]:
        """How many follow-ups there are of each severity, the worst first."""
        rows = self._db.execute(
            "SELECT severity, count(*) FROM follow_up GROUP BY rank ORDER BY rank DESC"
        )
        return dict(rows.fetchall())

    def count_code(self, code: str) -> int:
        """How many follow-ups there are of one code."""
        row = self._db.execute("SELECT count(*) FROM follow_up WHERE code = ?", (code,))
        return int(row.fetchone()[0])


def _values(problem: Problem) -> tuple[object, ...]:
    return (
        problem.severity.value,
        _RANKS[problem.severity],
        problem.code,
        problem.message,
        problem.advice,
        problem.where.file,
        problem.where.line,
        problem.object,
        problem.key,
    )
