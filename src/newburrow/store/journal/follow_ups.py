"""What a person must still do or know."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

from newburrow.core.codes import Severity
from newburrow.core.problem import Problem

PLACES = "follow-up-places.csv"
_GROUPS = (
    "SELECT min(seq) AS seq, count(*) AS places, code, message, advice FROM follow_up "
    "GROUP BY code, message, advice"
)
_RANKS = {severity: rank for rank, severity in enumerate(Severity)}


class FollowUps:
    """The follow-ups of a move."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def add(self, *problems: Problem) -> None:
        """Keep things that a person must still do or know."""
        self._db.executemany(
            "INSERT INTO follow_up (severity, rank, code, message, advice, file, line, object, key, "
            "detail) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            map(_values, problems),
        )

    def rows(self) -> Iterator[tuple[str, str, str, str, str, str, str]]:
        """Rows of code, severity, title, old address, new address, what, suggestion; the worst first."""
        return self._db.execute(
            "SELECT u.code, u.severity, coalesce(f.title, ''), coalesce(f.old, ''), "
            "coalesce(f.new, ''), u.message || iif(u.detail = '', '', ' (' || u.detail || ')'), "
            "u.advice FROM follow_up u LEFT JOIN fate f "
            "ON f.object = u.object AND f.key = u.key AND f.nth = 0 "
            "ORDER BY u.rank DESC, u.code, u.seq"
        )

    def grouped(self) -> Iterator[tuple[str, str, str, str, str, str, str]]:
        """The same rows, but one for all that say the same: it names the first place and counts the others."""
        rows = self._db.execute(
            f"SELECT u.code, u.severity, coalesce(f.title, ''), coalesce(f.old, ''), coalesce(f.new, ''), "
            f"u.message, u.advice, u.detail, g.places FROM ({_GROUPS}) g JOIN follow_up u ON u.seq = g.seq "
            "LEFT JOIN fate f ON f.object = u.object AND f.key = u.key AND f.nth = 0 "
            "ORDER BY u.rank DESC, u.code, u.seq"
        )
        for code, severity, title, old, new, message, advice, detail, places in rows:
            what = message
            if places > 1:
                title = f"{title or old or code} and {places - 1:,} more"
                what = f"{message} In {places:,} places: see {PLACES}."
            elif detail:
                what = f"{message} ({detail})"
            yield code, severity, title, old, new, what, advice

    def places(self) -> Iterator[tuple[str, str, str, str, str, str]]:
        """Code, what, title, old and new address, and detail of each follow-up that `grouped` gives with others."""
        return self._db.execute(
            f"SELECT u.code, u.message, coalesce(f.title, ''), coalesce(f.old, ''), coalesce(f.new, ''), "
            f"u.detail FROM ({_GROUPS}) g JOIN follow_up u ON u.code = g.code AND u.message = g.message "
            "AND u.advice = g.advice LEFT JOIN fate f ON f.object = u.object AND f.key = u.key AND f.nth = 0 "
            "WHERE g.places > 1 ORDER BY u.rank DESC, u.code, g.seq, u.seq"
        )

    def about(self, table: str, key: str) -> list[tuple[str, str]]:
        """Code and message of each follow-up about one object, in the order met."""
        rows = self._db.execute(
            "SELECT code, message FROM follow_up WHERE object = ? AND key = ? ORDER BY seq",
            (table, key),
        )
        return rows.fetchall()

    def count(self) -> dict[str, int]:
        """How many rows of `grouped` there are of each severity, the worst first."""
        rows = self._db.execute(
            f"SELECT u.severity, count(*) FROM ({_GROUPS}) g JOIN follow_up u ON u.seq = g.seq "
            "GROUP BY u.rank ORDER BY u.rank DESC"
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
        problem.excerpt,
    )
