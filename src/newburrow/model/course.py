"""Courses: a tree of units, quizzes, question banks and questions.

Names follow QTI (1EdTech QTI 1.2 and 2.1) where it has one word for a thing; kinds of questions are
ours, since the two versions of the standard name interactions in different ways.
"""

from __future__ import annotations

from datetime import datetime
from typing import ClassVar

from msgspec import Struct

from newburrow.model.record import Body, Record

QUIZ_KINDS = ("quiz", "exam", "survey")
QUESTION_KINDS = (
    "choice",
    "multiple-choice",
    "true-false",
    "text-entry",
    "pattern-match",
    "numerical",
    "essay",
    "match",
    "order",
    "associate",
    "gap-match",
    "hot-text",
    "inline-choice",
    "upload",
    "text-only",
)


class Unit(Record, frozen=True, kw_only=True, omit_defaults=True):
    """One node of a course's tree: a module, a heading within one, or something that it holds."""

    table: ClassVar[str] = "unit"

    title: str = ""
    parent: str = ""  # key of a unit; empty for one at the top
    position: int | None = None  # among those of the same parent
    target: str = ""  # key of what this links to, or an address; empty for a heading
    target_table: str = ""  # table of that record (`entry`, `quiz`, ...); empty for an address
    status: str = "published"  # one of ENTRY_STATES
    description: str = ""


class QuizSection(Struct, frozen=True, omit_defaults=True):
    """A part of a quiz, in which questions are chosen and ordered together."""

    name: str
    title: str = ""
    bank: str = ""  # key of the question bank that it draws from; empty: its own questions
    draw: int = 0  # how many questions a student gets; 0: all
    shuffle: bool = False  # whether the order of the questions differs from student to student
    points_each: float | None = None  # for each question drawn; None: as the questions say


class Quiz(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A test, an exam or a survey."""

    table: ClassVar[str] = "quiz"

    kind: str = "quiz"  # one of QUIZ_KINDS
    title: str = ""
    permalink: str = ""
    status: str = "published"  # one of ENTRY_STATES
    instructions: Body = Body()
    sections: tuple[QuizSection, ...] = ()  # in their order
    minutes: int | None = None  # the time limit
    attempts: int | None = 1  # how often a student may try; None: as often as they like
    shuffle_choices: bool = False
    shows_answers: bool = False  # whether a student sees the right answers afterwards
    points: float | None = None  # of the whole; None: the sum of its questions
    passing_points: float | None = None
    opens: datetime | None = None
    due: datetime | None = None
    closes: datetime | None = None


class QuestionBank(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A store of questions that quizzes draw from."""

    table: ClassVar[str] = "question_bank"

    title: str = ""
    description: str = ""


class Choice(Struct, frozen=True, omit_defaults=True):
    """Something that a student can choose, order, match or drop into a gap."""

    name: str  # within its question
    body: Body = Body()
    group: str = ""  # `source` or `target` in a match; name of the gap in an inline choice
    fixed: bool = False  # whether it keeps its place when choices are shuffled
    most: int = 1  # how often it may be matched; 0: without limit


class Answer(Struct, frozen=True, omit_defaults=True):
    """One answer that counts, and for how much."""

    value: str  # name of a choice, a text, a number, or a regular expression
    partner: str = ""  # name of the choice that `value` goes with, in a match or a gap match
    gap: str = ""  # name of the blank that it belongs to, where there are several
    share: float = 1.0  # of the question's points; below 0 where a wrong answer costs some
    case_sensitive: bool = False
    lower: float | None = None  # the least number that is right
    upper: float | None = None  # the greatest number that is right


class Feedback(Struct, frozen=True, omit_defaults=True):
    """What a student is told about an answer."""

    body: Body
    on: str = "any"  # `any`, `right`, `wrong`, or the name of a choice
    is_hint: bool = False  # shown on request, before the answer counts


class Question(Record, frozen=True, kw_only=True, omit_defaults=True):
    """One question of a quiz or of a question bank."""

    table: ClassVar[str] = "question"

    kind: str = "choice"  # one of QUESTION_KINDS
    title: str = ""
    quiz: str = ""  # key of the quiz that it is in
    bank: str = ""  # key of the question bank that it is in
    section: str = ""  # name of the section of its quiz
    position: int | None = None  # within its section or bank
    prompt: Body = Body()
    choices: tuple[Choice, ...] = ()
    answers: tuple[Answer, ...] = ()
    feedback: tuple[Feedback, ...] = ()
    points: float | None = None
    shuffle: bool = False
    order_counts: bool = False  # whether answers count only in their order
    rubric: Body = Body()  # what the teacher grades by
    # response processing that `answers` cannot say, as the export has it
    scoring: str = ""
