"""Quizzes as tests of QTI 2.1 (Assessment Test, Section and Item Information Model, section 10)."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from newburrow.formats.qti2.item_writer import SCHEMA, Html, plain
from newburrow.formats.xml_output import attribute
from newburrow.markup.xhtml import blocks
from newburrow.model import Entry, Question, Quiz, QuizSection

Refer = Callable[
    [str], tuple[str, str]
]  # key of a question -> identifier of its item, its path from the test


def test(
    entry: Entry,
    ident: str,
    questions: Sequence[Question],
    banks: dict[str, dict[str, float]],
    refer: Refer,
    html: Html,
) -> Iterator[str]:
    """The `assessmentTest` of a quiz.

    `banks` has the keys of the questions of each bank that it draws from, with their points. Questions of a
    section that the quiz does not name stand in one of their own.
    """
    facts = entry.quiz or Quiz()
    title = attribute(entry.title or "Quiz")
    outcome = "SURVEY" if facts.kind == "survey" else "SCORE"
    yield f'<?xml version="1.0" encoding="UTF-8"?>\n<assessmentTest {SCHEMA} identifier="{ident}" title={title}>\n'
    yield f'<outcomeDeclaration identifier="{outcome}" cardinality="single" baseType="float"/>\n'
    if facts.minutes:
        yield f'<timeLimits maxTime="{facts.minutes * 60:.12g}"/>\n'
    yield '<testPart identifier="part" navigationMode="nonlinear" submissionMode="individual">\n'
    tries = 0 if facts.attempts is None else facts.attempts
    feedback, shown = str(facts.gives_feedback).lower(), str(facts.shows_answers).lower()
    yield f'<itemSessionControl maxAttempts="{tries}" showFeedback="{feedback}" showSolution="{shown}"/>\n'
    rubric = plain(blocks(html(entry.body))) if entry.body.text else ""
    for number, section in enumerate(_sections(facts, questions), 1):
        own = dict.fromkeys(
            (question.key for question in questions if question.section == section.name), 1.0
        )
        yield from _section(
            section,
            number,
            rubric if number == 1 else "",
            refer,
            banks.get(section.bank) or own,
        )
    yield "</testPart>\n</assessmentTest>\n"


def _sections(facts: Quiz, questions: Sequence[Question]) -> list[QuizSection]:
    """The sections of a quiz, with those that only questions name; one at least."""
    found = {section.name: section for section in facts.sections}
    for question in questions:
        found.setdefault(question.section, QuizSection(question.section))
    return list(found.values()) or [QuizSection("")]


def _section(
    section: QuizSection, number: int, rubric: str, refer: Refer, asked: dict[str, float]
) -> Iterator[str]:
    """A section; `asked` are the keys of the questions that it asks or draws from, with their points."""
    title = attribute(section.title or f"Section {number}")
    yield f'<assessmentSection identifier="section{number}" title={title} visible="true">\n'
    if section.draw:
        yield f'<selection select="{min(section.draw, len(asked)) or section.draw}"/>\n'
    if section.shuffle:
        yield '<ordering shuffle="true"/>\n'
    if rubric:
        yield f'<rubricBlock view="candidate">\n{rubric}\n</rubricBlock>\n'
    for key, points in asked.items():
        ident, path = refer(key)
        opened = f'<assessmentItemRef identifier="{ident}" href="{path}"'
        if section.points_each is not None:
            weight = section.points_each / (points or 1.0)
            yield f'{opened}>\n<weight identifier="WEIGHT" value="{weight:.12g}"/>\n</assessmentItemRef>\n'
        else:
            yield f"{opened}/>\n"
    yield "</assessmentSection>\n"
