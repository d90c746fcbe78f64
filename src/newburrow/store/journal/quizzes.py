"""Quizzes and question banks before and after a move: their counts, and what students and teachers see."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

import msgspec
from msgspec import Struct


class QuizSide(Struct, frozen=True, array_like=True):
    """A quiz on one of the two sites."""

    questions: int
    points: float
    student: list[str]  # the lines that a student sees
    teacher: list[str]  # what a teacher sees besides


class QuizSides(Struct, frozen=True, array_like=True):
    """A quiz on both sites."""

    title: str
    before: QuizSide
    after: QuizSide

    @property
    def sentence(self) -> str:
        """The counts in words: those after the move, and those before where they differ."""
        made = _counts(self.after)
        if (self.before.questions, self.before.points) != (
            self.after.questions,
            self.after.points,
        ):
            made += f"; before the move {_counts(self.before)}"
        return made


def _counts(side: QuizSide) -> str:
    asked = f"{side.questions:,} question{'' if side.questions == 1 else 's'}"
    return f"{asked}, {side.points:g} point{'' if side.points == 1 else 's'}"


class QuizTable:
    """The quizzes of a move, in the order of the course."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db
        self._decode = msgspec.json.Decoder(QuizSides).decode

    def add(self, *quizzes: QuizSides) -> None:
        """Keep what is shown of these."""
        rows = ((msgspec.json.encode(quiz),) for quiz in quizzes)
        self._db.executemany("INSERT INTO quiz (data) VALUES (?)", rows)

    def all(self) -> Iterator[QuizSides]:
        """All quizzes."""
        for (data,) in self._db.execute("SELECT data FROM quiz ORDER BY rowid"):
            yield self._decode(data)
