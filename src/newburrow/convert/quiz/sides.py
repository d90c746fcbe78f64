"""A quiz as it was and as it becomes, for the report."""

from __future__ import annotations

from collections.abc import Sequence

from newburrow.convert.quiz import text_sheet
from newburrow.model import Question
from newburrow.model.bundle import Bundle
from newburrow.store.journal.quizzes import QuizSide, QuizSides


def sides(title: str, asked: Sequence[Question], bundle: Bundle) -> QuizSides:
    """Both sides; `asked` are the questions as they were read, and `bundle` is what is written."""
    before = _side(asked)
    if not bundle.questions and not bundle.entry.quiz:  # they are in the text of a page
        return QuizSides(title, before, before)
    return QuizSides(title, before, _side(bundle.questions))


def _side(asked: Sequence[Question]) -> QuizSide:
    points = round(sum(question.points or 0 for question in asked), 6)
    return QuizSide(
        len(asked), points, list(text_sheet.student(asked)), list(text_sheet.teacher(asked))
    )
