"""Questions held equal before and after: what was written is read back by the format's own reader, and compared.

Answers, points, feedback, shuffling, choices and the words of the prompt count; markup does not.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

import msgspec

from newburrow.core import plugins
from newburrow.core.problem import NOWHERE, BurrowError, Problem
from newburrow.formats.base import Format
from newburrow.formats.exports import detection, export_records
from newburrow.model import Body, Question
from newburrow.model.bundle import Bundle
from newburrow.model.course import GAP_BEGINS, GAP_ENDS
from newburrow.store.journal.handed_over import HandedEntry
from newburrow.store.question_table import QuestionTable

_TAG = re.compile(r"<[^>]*>")
_GAP = re.compile(f"{GAP_BEGINS}[^{GAP_BEGINS}{GAP_ENDS}]*{GAP_ENDS}")
_PICTURE = re.compile(r"<(?:img|audio|video|object)\b")


class QuestionCheck:
    """The questions that the writer of a format was handed, on disk until they are compared."""

    def __init__(self, format_: str) -> None:
        """`format_` is the name of the host's."""
        self._format: Format = plugins.get(plugins.FORMATS, format_)
        self._table = QuestionTable()

    def problems(self, handed: Iterable[HandedEntry], folder: Path) -> Iterator[Problem]:
        """A problem for each question that is missing in the result in `folder`, or differs there."""
        if not self._format.has_questions:
            return
        for entry in handed:
            self._expect(entry.bundle)
        if self._table.is_empty():
            return
        try:
            for question in _read(folder):
                yield from self._compared(question)
        except BurrowError as error:
            what = error.problem.message
            yield Problem.at(NOWHERE, "question-changed", place="The result", what=what)
            return
        for place in self._table.places():
            yield Problem.at(
                NOWHERE, "question-changed", place=place, what="it is not in the result"
            )

    def _expect(self, bundle: Bundle) -> None:
        rows = []
        for number, question in enumerate(bundle.questions, 1):
            place = f"“{bundle.entry.title}”, question {number}"
            rows.append((self._format.written_name(question.key), place, _encoded(question)))
        self._table.add(rows)

    def _compared(self, question: Question) -> Iterator[Problem]:
        expected = self._table.take(question.key.rpartition("/")[2])
        if expected is None:
            return
        place, facts_before = expected
        before, after = (
            msgspec.json.decode(facts_before),
            msgspec.json.decode(_encoded(question)),
        )
        different = [fact for fact in before if before[fact] != after[fact]]
        if different:
            yield Problem.at(
                NOWHERE, "question-changed", place=place, what=", ".join(different)
            )


def _read(folder: Path) -> Iterator[Question]:
    export = detection.examine(folder)
    for item in export_records.records(export):
        if isinstance(item, Question):
            yield item


def _encoded(question: Question) -> str:
    return msgspec.json.encode(facts(question)).decode()


def facts(question: Question) -> dict[str, Any]:
    """What of a question counts, with choices by their number and texts by their words."""
    numbers = {choice.name: number for number, choice in enumerate(question.choices)}
    gaps: dict[str, int] = {}
    for answer in question.answers:
        gaps.setdefault(answer.gap, len(gaps))

    def known(name: str) -> int | str:
        return numbers.get(name, name)

    answers = sorted(
        (
            str(known(answer.value)),
            str(known(answer.partner)),
            gaps[answer.gap] if len(gaps) > 1 else 0,
            round(answer.share, 6),
            answer.case_sensitive,
            answer.is_pattern,
            answer.lower,
            answer.upper,
        )
        for answer in question.answers
    )
    if question.kind == "order":
        answers = [(str(known(answer.value)),) for answer in question.answers]  # type: ignore[misc]
    kind = "choice" if question.kind == "true-false" else question.kind
    return {
        "kind": kind,
        "points": None if question.points is None else round(question.points, 6),
        "shuffle": question.shuffle,
        "shared points": question.is_partial,
        "answers": answers,
        "choices": [(_words(choice.body), choice.fixed) for choice in question.choices],
        "feedback": sorted(
            (str(known(f.on)), f.is_hint, _words(f.body)) for f in question.feedback
        ),
        "prompt": _words(question.prompt),
    }


def _words(body: Body) -> str:
    """The words of a text, with a mark for each picture."""
    text = _TAG.sub(" ", _PICTURE.sub("(picture) <img", body.text))
    return " ".join(html.unescape(_GAP.sub("(gap)", text)).split())
