"""A quiz as lines of text: as a student sees it, and as a teacher does."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from newburrow.convert.quiz import sheet
from newburrow.model import Question, Quiz
from newburrow.model.course import GAP_BEGINS

_MARKS = {"multiple-choice": "[ ]", "hot-text": "[ ]", "order": " - "}
_IN_TEXT = ("inline-choice", "gap-match")  # whose choices stand in a line
_WRITTEN = ("text-entry", "pattern-match", "numerical")


def student(questions: Iterable[Question]) -> Iterator[str]:
    """What a student sees: each question with its points and its choices."""
    for number, question in enumerate(questions, 1):
        yield f"{number}. {sheet.words(question.prompt)}{_points(question)}"
        yield from _below(question)
        for place, part in enumerate(question.parts, 1):
            words = f" {sheet.words(part.prompt)}".rstrip()
            yield f"   part {place}:{words}{_points(part)}"
            yield from (f"   {line}" for line in _below(part))


def _below(question: Question) -> Iterator[str]:
    """What stands below the text of a question: its choices, or room for the answer."""
    yield from (f"   {line}" for line in _choices(question))
    if question.kind == "essay":
        yield "   ______________________________"
    elif question.kind == "upload":
        yield "   (a file)"
    elif question.kind in _WRITTEN and GAP_BEGINS not in question.prompt.text:
        yield "   _____"


def teacher(questions: Iterable[Question]) -> Iterator[str]:
    """What a teacher sees besides: kind, right answers, feedback and scoring of each question."""
    for number, question in enumerate(questions, 1):
        right = "; ".join(sheet.answers(question)) or "no fixed answer"
        shared = ", each for itself" if question.is_partial else ""
        is_shuffled = question.shuffle or any(part.shuffle for part in question.parts)
        shuffled = ", choices shuffled" if is_shuffled else ""
        yield f"{number}. {question.kind}{_points(question)}{shared}{shuffled}: {right}"
        yield from (f"   {line}" for line in sheet.feedback(question))
        if question.rubric.text:
            yield f"   for grading: {sheet.words(question.rubric)}"
        if question.scoring:
            yield "   scored by rules of its own, which are kept as they are"


def settings(quiz: Quiz) -> Iterator[str]:
    """The settings of a quiz in words."""
    yield f"kind: {quiz.kind}"
    if quiz.minutes:
        yield f"time: {quiz.minutes:g} {'minute' if quiz.minutes == 1 else 'minutes'}"
    yield f"attempts: {'any number' if quiz.attempts is None else quiz.attempts}"
    for section in quiz.sections:
        if section.draw:
            yield f"draws {section.draw} questions{f' from {section.bank}' if section.bank else ''}"
        if section.shuffle:
            yield f"section {section.name}: questions in a different order for each student"


def _points(question: Question) -> str:
    if question.points is None:
        return ""
    return f" ({sheet.in_points(question.points)})"


def _choices(question: Question) -> Iterator[str]:
    mark = _MARKS.get(question.kind, "( )")
    groups: dict[str, list[str]] = {}
    for choice in question.choices:
        if choice.body.text:
            groups.setdefault(choice.group, []).append(sheet.words(choice.body))
    if len(groups) <= 1 and question.kind not in _IN_TEXT:
        yield from (f"{mark} {text}" for texts in groups.values() for text in texts)
        return
    for texts in groups.values():
        yield " / ".join(texts)
