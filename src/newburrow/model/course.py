"""Questions of quizzes and question banks.

A module, a lesson, a quiz and a question bank are entries, under one another as pages are. Names follow QTI
(1EdTech QTI 1.2 and 2.1) where it has one word for a thing; kinds of questions are ours, since the two
versions of the standard name interactions in different ways.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import ClassVar

from msgspec import Struct
from msgspec.structs import replace

from newburrow.model.record import Body, Record

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
    "composite",
)
GAP_BEGINS, GAP_ENDS = "\u27e6", "\u27e7"  # around the name of a gap in a prompt
GAP = re.compile(f"{GAP_BEGINS}([^{GAP_BEGINS}{GAP_ENDS}]*){GAP_ENDS}")
BLANK = "_____"  # a gap in a text that students read, where the answer is given elsewhere


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
    is_pattern: bool = (
        False  # whether `value` need only stand somewhere in what a student writes
    )
    lower: float | None = None  # the least number that is right
    upper: float | None = None  # the greatest number that is right


class Feedback(Struct, frozen=True, omit_defaults=True):
    """What a student is told about an answer."""

    body: Body
    on: str = "any"  # `any`, `right`, `wrong`, or the value of an answer
    is_hint: bool = False  # shown on request, before the answer counts


class Question(Record, frozen=True, kw_only=True, omit_defaults=True):
    """One question of a quiz or of a question bank."""

    table: ClassVar[str] = "question"

    kind: str = "choice"  # one of QUESTION_KINDS
    title: str = ""
    entry: str = ""  # key of the quiz or question bank that it is in
    section: str = ""  # name of the section of its quiz
    position: int | None = None  # within its section or bank, counted from 1
    prompt: Body = Body()
    choices: tuple[Choice, ...] = ()
    answers: tuple[Answer, ...] = ()
    feedback: tuple[Feedback, ...] = ()
    points: float | None = None
    shuffle: bool = False  # whether the order of the choices differs from student to student
    # whether each answer counts by itself, for its share; else they count only all together
    is_partial: bool = False
    most: int = 0  # how many choices a student may take; 0: any number
    rubric: Body = Body()  # what the teacher grades by
    # response processing that `answers` cannot say, as the export has it
    scoring: str = ""
    # What a composite asks, one after the other: the key of each is the name of its gap in the prompt. Their points
    # add up to those of the whole where each counts by itself (`is_partial`); else they have none of their own.
    parts: tuple[Question, ...] = ()

    def worth(self, points: float | None) -> Question:
        """The same question for other points, of which its parts keep their shares."""
        parts = self.parts
        if points is not None and self.points:
            factor = points / self.points
            parts = tuple(
                replace(part, points=part.points and round(part.points * factor, 9))
                for part in parts
            )
        return replace(self, points=points, parts=parts)

    def texts(self) -> Iterator[Body]:
        """All texts of the question and of its parts, in their order."""
        yield self.prompt
        yield from (choice.body for choice in self.choices)
        yield from (feedback.body for feedback in self.feedback)
        yield self.rubric
        for part in self.parts:
            yield from part.texts()
