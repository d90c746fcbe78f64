"""What a student is told about an answer, in QTI 1.2: `itemfeedback` and the conditions that show it."""

from __future__ import annotations

from collections.abc import Sequence

from lxml import etree
from msgspec import Struct

from newburrow.formats.qti1.conditions import ResponseTest
from newburrow.formats.qti1.material import html_of, is_for_students
from newburrow.formats.qti1.scoring import Scoring
from newburrow.formats.xml_names import attribute, descendants, local
from newburrow.model import Body, Feedback


class ReadFeedback(Struct, frozen=True):
    """What students are told about their answers, and what teachers grade by."""

    feedback: tuple[Feedback, ...]
    rubric: Body


def of(
    elements: Sequence[etree._Element], scoring: Scoring, base: str, is_essay: bool
) -> ReadFeedback:
    """The feedback in the `itemfeedback` elements of an item, each with what it is shown on.

    A solution of an essay that no condition shows is what the teacher grades by.
    """
    shown_on = _shown_on(scoring)
    rubric, found = "", list[Feedback]()
    for element in elements:
        ident = attribute(element, "ident")
        hints, solution = _help(element)
        if hints:
            found.append(Feedback(Body(hints, base=base), is_hint=True))
        if solution and is_essay and ident not in shown_on:
            rubric = "\n".join(filter(None, (rubric, solution)))
        elif solution:
            found.append(Feedback(Body(solution, base=base), "solution"))
        text = html_of(element)
        if not is_for_students(element):
            rubric, text = "\n".join(filter(None, (rubric, text))), ""
        for on in shown_on.get(ident, ["any"]) if text else ():
            found.append(Feedback(Body(text, base=base), on))
    return ReadFeedback(tuple(found), Body(rubric, base=base) if rubric else Body())


def _help(element: etree._Element) -> tuple[str, str]:
    """The texts of the hints and of the solution in a feedback."""
    texts = {"hint": "", "solution": ""}
    for inner in element:
        name = local(inner)
        if name in texts:  # in most there is none
            for material in descendants(inner, f"{name}material"):
                texts[name] += html_of(material)
    return texts["hint"], texts["solution"]


def _shown_on(scoring: Scoring) -> dict[str, list[str]]:
    """The ident of a feedback -> what it is shown on: `any`, `right`, `wrong`, or the value of an answer."""
    found: dict[str, list[str]] = {}
    has_scored = False
    for condition in scoring.conditions:
        if any(value > 0 for value in condition.values):
            on = "right"
        elif condition.changes:
            on = "wrong"
        else:
            on = _on(condition.tests, condition.goes_on and not has_scored)
        has_scored = has_scored or bool(condition.changes)
        for ident in condition.shown:
            shown = found.setdefault(ident, [])
            if on not in shown:
                shown.append(on)
    return found


def _on(tests: Sequence[ResponseTest], is_general: bool) -> str:
    """What a condition without a score stands for."""
    if len(tests) == 1 and tests[0].name == "varequal":
        return tests[0].value or "any"
    if tests and all(test.name in ("other", "unanswered") for test in tests):
        if is_general:
            return "any"
        return "wrong"
    if len(tests) == 1 and tests[0].name == "not":
        return "wrong"
    return "right"
