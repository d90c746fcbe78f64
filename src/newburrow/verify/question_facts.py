"""What of a question has to be the same before and after.

Answers, points, feedback, shuffling, choices and the words of the prompt count; markup does not.
"""

from __future__ import annotations

import html
import re
from typing import Any

from newburrow.model import Answer, Body, Question
from newburrow.model.course import BLANK, GAP_BEGINS, GAP_ENDS

# Kinds that differ only in what their answers and choices say too.
_SAME_KINDS = {"true-false": "choice", "pattern-match": "text-entry"}
_TAG = re.compile(r"<[^>]*>")
_GAP = re.compile(f"{GAP_BEGINS}[^{GAP_BEGINS}{GAP_ENDS}]*{GAP_ENDS}|(?<!_){BLANK}(?!_)")
_PICTURE = re.compile(r"<(?:img|audio|video|object)\b")


def facts(question: Question) -> dict[str, Any]:
    """What of a question counts, with choices by their number and texts by their words.

    Of a question without points, and of its parts, no shares count. One that nothing scores is worth 0, since a
    host where each question counts can say no less.
    """
    return _facts(question, not question.points)


def _facts(question: Question, is_worthless: bool) -> dict[str, Any]:
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

    answers = [
        (
            "" if _is_range(answer) else str(known(answer.value)),
            str(known(answer.partner)),
            gaps[answer.gap] if len(gaps) > 1 else 0,
            1.0 if is_worthless else round(answer.share, 6),
            answer.case_sensitive,
            answer.is_pattern,
            answer.lower,
            answer.upper,
        )
        for answer in question.answers
        if answer.share > 0 or not is_worthless
    ]
    answers.sort(key=repr)  # a limit can be a number or nothing
    if question.kind == "order":
        answers = [(str(known(answer.value)),) for answer in question.answers]  # type: ignore[misc]
    return {
        "kind": _SAME_KINDS.get(question.kind, question.kind),
        "points": round(question.points or 0.0, 6),
        "shuffle": question.shuffle,
        "shared points": question.is_partial and not is_worthless,
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
        "parts": [_of_part(part, is_worthless) for part in question.parts],
    }


def _of_part(part: Question, is_worthless: bool) -> dict[str, Any]:
    found = _facts(part, is_worthless or part.points == 0)
    if is_worthless:
        return found | {"points": None}
    return found


def _is_range(answer: Answer) -> bool:
    """Whether its limits say what is right; its value is then one number among them."""
    return answer.lower is not None or answer.upper is not None


def _words(body: Body) -> str:
    """The words of a text, with a mark for each picture and each gap, which may end a paragraph."""
    text = _TAG.sub(" ", _PICTURE.sub("(picture) <img", body.text))
    return " ".join(html.unescape(_GAP.sub(" (gap) ", text)).split())
