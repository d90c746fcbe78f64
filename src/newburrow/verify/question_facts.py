"""What of a question has to be the same before and after.

Answers, points, feedback, shuffling, choices and the words of the prompt count; markup does not.
"""

from __future__ import annotations

import html
import re
from typing import Any

from newburrow.model import Answer, Body, Question
from newburrow.model.course import GAP_BEGINS, GAP_ENDS

# Kinds that differ only in what their answers and choices say too.
_SAME_KINDS = {"true-false": "choice", "pattern-match": "text-entry"}
_TAG = re.compile(r"<[^>]*>")
_GAP = re.compile(f"{GAP_BEGINS}[^{GAP_BEGINS}{GAP_ENDS}]*{GAP_ENDS}")
_PICTURE = re.compile(r"<(?:img|audio|video|object)\b")


def facts(question: Question) -> dict[str, Any]:
    """What of a question counts, with choices by their number and texts by their words."""
    numbers: dict[str, int | str] = {
        choice.name: number for number, choice in enumerate(question.choices)
    }
    for place, part in enumerate(question.parts):
        for number, choice in enumerate(part.choices):
            numbers.setdefault(choice.name, f"{place}.{number}")
    gaps: dict[str, int] = {}
    for answer in question.answers:
        gaps.setdefault(answer.gap, len(gaps))

    def known(name: str) -> int | str:
        return numbers.get(name, name)

    answers = sorted(
        (
            "" if _is_range(answer) else str(known(answer.value)),
            str(known(answer.partner)),
            gaps[answer.gap] if len(gaps) > 1 else 0,
            round(answer.share, 6) if question.points != 0 else 1.0,
            answer.case_sensitive,
            answer.is_pattern,
            answer.lower,
            answer.upper,
        )
        for answer in question.answers
        if question.points != 0 or answer.share > 0
    )
    if question.kind == "order":
        answers = [(str(known(answer.value)),) for answer in question.answers]  # type: ignore[misc]
    return {
        "kind": _SAME_KINDS.get(question.kind, question.kind),
        "points": None if question.points is None else round(question.points, 6),
        "shuffle": question.shuffle,
        "shared points": question.is_partial,
        "answers": answers,
        # Only where choices are shuffled does one keep its place.
        "choices": [
            (_words(choice.body), choice.fixed and question.shuffle)
            for choice in question.choices
        ],
        "feedback": sorted(
            (str(known(f.on)), f.is_hint, _words(f.body)) for f in question.feedback
        ),
        "prompt": _words(question.prompt),
        "rubric": _words(question.rubric),
        "parts": list(map(facts, question.parts)),
    }


def _is_range(answer: Answer) -> bool:
    """Whether its limits say what is right; its value is then one number among them."""
    return answer.lower is not None or answer.upper is not None


def _words(body: Body) -> str:
    """The words of a text, with a mark for each picture and each gap, which may end a paragraph."""
    text = _TAG.sub(" ", _PICTURE.sub("(picture) <img", body.text))
    return " ".join(html.unescape(_GAP.sub(" (gap) ", text)).split())
