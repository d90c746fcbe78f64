"""What a student is told about an answer, in QTI 1.2: `itemfeedback` and the conditions that show it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lxml import etree

from newburrow.formats.qti1.conditions import ResponseTest
from newburrow.formats.qti1.material import html_of
from newburrow.formats.qti1.scoring import Scoring
from newburrow.formats.xml_names import attribute, children, descendants, local
from newburrow.model import Body, Feedback


def of(item: etree._Element, scoring: Scoring, base: str) -> tuple[Feedback, ...]:
    """The feedback of an item, each with what it is shown on."""
    return tuple(_feedback(item, _shown_on(scoring), base))


def _feedback(
    item: etree._Element, shown_on: dict[str, list[str]], base: str
) -> Iterator[Feedback]:
    for element in children(item, "itemfeedback"):
        help_texts = {"hintmaterial": "", "solutionmaterial": ""}
        for found in descendants(element, *help_texts):
            help_texts[local(found)] += html_of(found)
        if hints := help_texts["hintmaterial"]:
            yield Feedback(Body(hints, base=base), is_hint=True)
        if solution := help_texts["solutionmaterial"]:
            yield Feedback(Body(solution, base=base), "solution")
        text = html_of(element)
        for on in shown_on.get(attribute(element, "ident"), ["any"]) if text else ():
            yield Feedback(Body(text, base=base), on)


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
        return "any" if is_general else "wrong"
    if len(tests) == 1 and tests[0].name == "not":
        return "wrong"
    return "right"
