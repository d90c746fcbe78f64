"""What a student is told about an answer, in QTI 1.2: `itemfeedback` and the conditions that show it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lxml import etree

from newburrow.formats.qti1.material import html_of
from newburrow.formats.qti1.scoring import Scoring
from newburrow.formats.xml_names import attribute, child, children, descendants, local, number
from newburrow.model import Body, Choice, Feedback


def of(
    item: etree._Element,
    scoring: Scoring,
    responses: Sequence[etree._Element],
    choices: Sequence[Choice],
    base: str,
) -> tuple[Feedback, ...]:
    """The feedback of an item, each with what it is shown on."""
    shown_on = _shown_on(
        scoring, {attribute(response, "ident") for response in responses}, choices
    )
    return tuple(_feedback(item, shown_on, base))


def _feedback(
    item: etree._Element, shown_on: dict[str, list[str]], base: str
) -> Iterator[Feedback]:
    for element in children(item, "itemfeedback"):
        hints = "".join(html_of(found) for found in descendants(element, "hintmaterial"))
        if hints:
            yield Feedback(Body(hints, base=base), is_hint=True)
        solution = "".join(html_of(found) for found in descendants(element, "solutionmaterial"))
        if solution:
            yield Feedback(Body(solution, base=base), "solution")
        text = html_of(element)
        for on in shown_on.get(attribute(element, "ident"), ["any"]) if text else ():
            yield Feedback(Body(text, base=base), on)


def _shown_on(
    scoring: Scoring, idents: set[str], choices: Sequence[Choice]
) -> dict[str, list[str]]:
    """The ident of a feedback -> what it is shown on: `any`, `right`, `wrong`, or the value of an answer."""
    found: dict[str, list[str]] = {}
    names = {choice.name for choice in choices}
    has_scored = False
    for condition in scoring.conditions:
        changes = [number(change.text or "") or 0 for change in children(condition, "setvar")]
        variable = child(condition, "conditionvar")
        tests = list(children(variable)) if variable is not None else []
        if any(value > 0 for value in changes):
            on = "right"
        elif changes:
            on = "wrong"
        else:
            on = _on(
                tests,
                names,
                (attribute(condition, "continue") or "No").lower() == "yes" and not has_scored,
            )
        has_scored = has_scored or bool(changes)
        for element in children(condition, "displayfeedback"):
            shown = found.setdefault(attribute(element, "linkrefid"), [])
            if on not in shown:
                shown.append(on)
    return found


def _on(tests: list[etree._Element], names: set[str], is_general: bool) -> str:
    """What a condition without a score stands for."""
    if len(tests) == 1 and local(tests[0]) == "varequal":
        value = (tests[0].text or "").strip()
        return value if value in names or value else "any"
    if tests and all(local(test) in ("other", "unanswered") for test in tests):
        return "any" if is_general else "wrong"
    if len(tests) == 1 and local(tests[0]) == "not":
        return "wrong"
    return "right"
