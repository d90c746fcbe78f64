"""What a person must still do or know."""

from __future__ import annotations

import hashlib
import logging
import sqlite3
from collections.abc import Iterable, Iterator, Sequence

from msgspec import Struct
from msgspec.structs import astuple

from newburrow.core import log_facts
from newburrow.core.codes import Severity
from newburrow.core.problem import Problem

log = logging.getLogger(__name__)

PLACES = "follow-up-places.csv"
_GROUPS = (
    "SELECT min(seq) AS seq, count(*) AS places, code, message, advice, "
    "group_key(code, message, advice) AS key FROM follow_up GROUP BY code, message, advice"
)
# What was done for fewer places than there are now is to be done again.
_OPEN = "coalesce(m.accepted, '') = '' AND (coalesce(m.done, '') = '' OR m.places < g.places)"
_RANKS = {severity: rank for rank, severity in enumerate(Severity)}


class Mark(Struct, frozen=True):
    """What a person has noted of a follow-up in an earlier run."""

    key: str
    places: int  # in how many there was something to do
    done: str  # empty: not done
    accepted: str  # empty: not called harmless
    note: str


class FollowUps:
    """The follow-ups of a move."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db
        db.create_function("group_key", 3, _group_key, deterministic=True)

    def add_marks(self, marks: Iterable[Mark]) -> None:
        """Keep what a person has noted; of two notes with the same key the last counts."""
        self._db.executemany(
            "INSERT OR REPLACE INTO mark VALUES (?, ?, ?, ?, ?)", map(astuple, marks)
        )

    def add(self, *problems: Problem) -> None:
        """Keep things that a person must still do or know."""
        if log.isEnabledFor(logging.DEBUG):
            for problem in problems:
                _log(problem)
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

    def grouped(self) -> Iterator[tuple[str, ...]]:
        """The same rows, but one for all that say the same: it names the first place and counts the others.

        Then number of places, key, done, accepted and note: the key stays the same from run to run. What is still to
        be done comes first.
        """
        rows = self._db.execute(
            f"SELECT u.code, u.severity, coalesce(f.title, ''), coalesce(f.old, ''), coalesce(f.new, ''), "
            "u.message, u.advice, u.detail, g.places, g.key, "
            f"iif({_OPEN}, '', coalesce(m.done, '')), coalesce(m.accepted, ''), coalesce(m.note, '') "
            f"FROM ({_GROUPS}) g JOIN follow_up u ON u.seq = g.seq LEFT JOIN mark m ON m.key = g.key "
            "LEFT JOIN fate f ON f.object = u.object AND f.key = u.key AND f.nth = 0 "
            f"ORDER BY {_OPEN} DESC, u.rank DESC, u.code, u.seq"
        )
        for code, severity, title, old, new, message, advice, detail, places, *marked in rows:
            what = message
            if places > 1:
                title = f"{title or old or code} and {places - 1:,} more"
                what = f"{message} In {places:,} places: see {PLACES}."
            elif detail:
                what = f"{message} ({detail})"
            yield code, severity, title, old, new, what, advice, str(places), *marked

    def places(self) -> Iterator[tuple[str, str, str, str, str, str]]:
        """Code, what, title, old and new address, and detail of each follow-up that `grouped` gives with others."""
        return self._db.execute(
            f"SELECT u.code, u.message, coalesce(f.title, ''), coalesce(f.old, ''), coalesce(f.new, ''), "
            f"u.detail FROM ({_GROUPS}) g JOIN follow_up u ON u.code = g.code AND u.message = g.message "
            "AND u.advice = g.advice LEFT JOIN fate f ON f.object = u.object AND f.key = u.key AND f.nth = 0 "
            "WHERE g.places > 1 ORDER BY u.rank DESC, u.code, g.seq, u.seq"
        )

    def of(self, table: str, key: str) -> list[tuple[str, str, str]]:
        """Code, message and advice of each follow-up about one object, in the order met."""
        rows = self._db.execute(
            "SELECT code, message || iif(detail = '', '', ' (' || detail || ')'), advice FROM follow_up "
            "WHERE object = ? AND key = ? ORDER BY seq",
            (table, key),
        )
        return rows.fetchall()

    def first_of_each(self, table: str, codes: Sequence[str]) -> list[tuple[str, str]]:
        """Key and message of the first follow-up of each of these codes about objects of a type."""
        holders = ", ".join("?" * len(codes))
        rows = self._db.execute(
            f"SELECT key, message, min(seq) FROM follow_up WHERE object = ? AND code IN ({holders}) "
            "GROUP BY code ORDER BY min(seq)",
            (table, *codes),
        )
        return [(key, message) for key, message, _seq in rows]

    def codes(self) -> list[tuple[str, int]]:
        """Each code with how many rows of `grouped` it has that are still to be done, the worst first."""
        rows = self._db.execute(
            f"SELECT u.code, count(*) FROM ({_GROUPS}) g JOIN follow_up u ON u.seq = g.seq "
            f"LEFT JOIN mark m ON m.key = g.key WHERE {_OPEN} GROUP BY u.code ORDER BY max(u.rank) DESC, u.code"
        )
        return rows.fetchall()

    def count(self) -> dict[str, int]:
        """How many rows of `grouped` there are of each severity, the worst first; without what is done or accepted."""
        rows = self._db.execute(
            f"SELECT u.severity, count(*) FROM ({_GROUPS}) g JOIN follow_up u ON u.seq = g.seq "
            f"LEFT JOIN mark m ON m.key = g.key WHERE {_OPEN} GROUP BY u.rank ORDER BY u.rank DESC"
        )
        return dict(rows.fetchall())

    def count_settled(self) -> tuple[int, int]:
        """How many rows of `grouped` are done, and how many accepted as harmless."""
        row = self._db.execute(
            f"SELECT coalesce(sum(accepted = '' AND NOT ({_OPEN})), 0), coalesce(sum(accepted != ''), 0) "
            f"FROM ({_GROUPS}) g JOIN mark m ON m.key = g.key"
        ).fetchone()
        return int(row[0]), int(row[1])

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


def _group_key(code: str, message: str, advice: str) -> str:
    """The key of all follow-ups that say the same."""
    return hashlib.sha256("\n".join((code, message, advice)).encode()).hexdigest()[:12]


def _log(problem: Problem) -> None:
    log_facts.debug(
        log,
        "follow-up",
        code=problem.code,
        severity=problem.severity.value,
        object=problem.object,
        key=problem.key,
        what=problem.message,
        where=str(problem.where) if problem.where.file else "",
    )
