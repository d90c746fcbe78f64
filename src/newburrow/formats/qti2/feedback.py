"""What a student is told about an answer in QTI 2: modal and inline feedback, and the rules that show it.

QTI 2.1, sections 6.3 (feedback elements), 8 (response processing) and 9 (modal feedback).
"""

from __future__ import annotations

from collections.abc import Iterator

from lxml import etree

from newburrow.formats.qti2 import processing
from newburrow.formats.qti2.body import html_of
from newburrow.formats.xml_names import (
    attribute,
    child,
    children,
    descendants,
    local,
    number,
    words,
)
from newburrow.model import Body, Feedback

_ACTIONS = ("setOutcomeValue", "responseCondition", "lookupOutcomeValue", "exitResponse")
_ASKING = ("match", "member", "equal", "stringMatch")
Shown = dict[
    tuple[str, str], str
]  # outcome and value -> what the feedback of that name is shown on


def of(root: etree._Element, body: etree._Element | None, base: str) -> Iterator[Feedback]:
    """The feedback of an item; links in it start from `base`."""
    shown = _shown(root)

    def feedback(element: etree._Element) -> Feedback:
        name = attribute(element, "identifier")
        is_hint = name.lower().startswith("hint")
        outcome = attribute(element, "outcomeIdentifier")
        on = shown.get((outcome, name)) or _by_name(root, name)
        text = html_of(element)
        return Feedback(
            Body(text, base=base) if text else Body(), "any" if is_hint else on, is_hint
        )

    yield from map(feedback, children(root, "modalFeedback"))
    within = body if body is not None else root
    yield from map(feedback, descendants(within, "feedbackInline", "feedbackBlock"))


def _shown(root: etree._Element) -> Shown:
    """What the response processing shows each feedback on, where its rules are plain."""
    found: Shown = {}
    element = child(root, "responseProcessing")
    most = processing.declared_most(root)
    for rule in children(element) if element is not None else ():
        if local(rule) == "setOutcomeValue":
            _note(rule, "any", found)
            continue
        was_right = False
        for branch in children(rule) if local(rule) == "responseCondition" else ():
            test = next(
                (part for part in children(branch) if local(part) not in _ACTIONS), None
            )
            if test is not None:
                on = _on(test, most)
            elif was_right:
                on = "wrong"
            else:
                on = ""
            was_right = was_right or on == "right"
            for action in children(branch, "setOutcomeValue"):
                _note(action, on, found)
    return found


def _note(action: etree._Element, on: str, found: Shown) -> None:
    outcome = attribute(action, "identifier")
    for value in descendants(action, "baseValue") if on and outcome != "SCORE" else ():
        found.setdefault((outcome, words(value)), on)


def _on(test: etree._Element, most: float | None) -> str:
    """What a test stands for: `right`, `wrong`, or the value that it asks for; empty where that is not plain."""
    name, inner = local(test), list(children(test))
    if processing.is_correct(test) or (
        name == "and" and inner and all(map(processing.is_correct, inner))
    ):
        return "right"
    if name == "not" and len(inner) == 1:
        return "wrong" if _on(inner[0], most) == "right" else ""
    if name == "or" and inner:
        meant = {_on(part, most) for part in inner}
        return meant.pop() if len(meant) == 1 else ""
    value, variable = child(test, "baseValue"), child(test, "variable")
    if value is None or variable is None:
        return ""
    if attribute(variable, "identifier") == "SCORE":
        is_most = most is None or number(words(value)) == most
        if name in ("gte", "equal", "match") and is_most and number(words(value)):
            return "right"
        return "wrong" if name == "lt" and is_most else ""
    return words(value) if name in _ASKING else ""


def _by_name(root: etree._Element, name: str) -> str:
    """What a feedback is shown on by its name: `any`, `right`, `wrong`, `solution`, or the value of an answer."""
    lowered = name.lower()
    if lowered == "solution":
        return lowered
    if "incorrect" in lowered or "wrong" in lowered:
        return "wrong"
    if "correct" in lowered or lowered == "right":
        return "right"
    known = {
        attribute(found, "identifier")
        for found in descendants(root, "simpleChoice", "inlineChoice")
    }
    return name if name in known else "any"
