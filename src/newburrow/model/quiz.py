"""What a quiz says besides what every entry says."""

from __future__ import annotations

from datetime import datetime

from msgspec import Struct

QUIZ_KINDS = ("quiz", "exam", "survey")


class QuizSection(Struct, frozen=True, omit_defaults=True):
    """A part of a quiz, in which questions are chosen and ordered together."""

    name: str
    title: str = ""
    bank: str = ""  # key of the question bank that it draws from; empty: its own questions
    draw: int = 0  # how many questions a student gets; 0: all
    shuffle: bool = False  # whether the order of the questions differs from student to student
    points_each: float | None = None  # for each question drawn from the bank; None: as they say


class Quiz(Struct, frozen=True, omit_defaults=True):
    """What makes an entry a test, an exam or a survey."""

    kind: str = "quiz"  # one of QUIZ_KINDS
    sections: tuple[QuizSection, ...] = ()  # in their order
    minutes: float | None = None  # the time limit
    attempts: int | None = 1  # how often a student may try; None: as often as they like
    shows_answers: bool = False  # whether a student sees the right answers afterwards
    gives_feedback: bool = True  # whether a student is told what an answer's feedback says
    gives_hints: bool = True
    passing_points: float | None = None
    opens: datetime | None = None
    due: datetime | None = None
    closes: datetime | None = None
