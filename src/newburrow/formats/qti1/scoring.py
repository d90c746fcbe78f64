"""What an answer scores by the response processing of QTI 1.2 (ASI information model, section 3.4.3)."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

from lxml import etree
from msgspec import Struct

from newburrow.formats.xml_names import attribute, child, children, descendants, local, number

Response = dict[str, tuple[str, ...]]  # ident of a response -> what a student gave
_SCORE = ("SCORE", "QUE_SCORE", "")


_JOINED = ("and", "or", "not")
_LIMITS = ("varlt", "varlte", "vargt", "vargte")
_KNOWN = ("other", "unanswered", "varequal", "varsubstring", "varsubset", *_LIMITS)


class _ResponseTest(Struct):
    """One test of a condition."""

    name: str
    ident: str = ""  # of the response
    wanted: str = ""
    is_exact: bool = False  # whether letter case counts
    parts: list[_ResponseTest] = []  # of one that joins others


class _Rule(Struct):
    """One condition: what it asks, what it does to the score, what it shows, and whether the next ones are asked."""

    tests: list[_ResponseTest]
    changes: list[tuple[str, float]]
    shown: list[str]
    goes_on: bool


class ScoredResponse(Struct):
    """What came of one try."""

    score: float
    feedback: tuple[str, ...]  # idents of what is shown


class Scoring:
    """The response processing of one item."""

    def __init__(self, item: etree._Element) -> None:
        self.elements = list(children(item, "resprocessing"))
        decvars = [
            found
            for element in self.elements
            for found in descendants(element, "decvar")
            if attribute(found, "varname") in _SCORE
        ]
        self.start = (
            next((number(attribute(v, "defaultval") or "0") for v in decvars), 0) or 0.0
        )
        self.declared = next((number(attribute(v, "maxvalue")) for v in decvars), None)
        self.exact: set[str] = set()  # idents of responses whose values are names, not texts
        self.unknown = False  # whether anything in it is not understood

    @property
    def conditions(self) -> Iterator[etree._Element]:
        """The conditions in their order."""
        for element in self.elements:
            yield from children(element, "respcondition")

    @property
    def size(self) -> int:
        """How many tests the conditions have."""
        return sum(1 for element in self.elements for _test in descendants(element, *_KNOWN))

    @property
    def most(self) -> float:
        """The greatest score: what is declared, else what the conditions add up to or set."""
        if self.declared:
            return self.declared
        values = [number(variable.text or "") or 0 for variable in self._set(("Add", "Set"))]
        adds = [number(variable.text or "") or 0 for variable in self._set(("Add",))]
        return max([sum(value for value in adds if value > 0), *values, 0])

    def _set(self, actions: tuple[str, ...]) -> Iterator[etree._Element]:
        for condition in self.conditions:
            for variable in children(condition, "setvar"):
                if (attribute(variable, "action") or "Set") in actions:
                    yield variable

    def of(self, response: Response) -> ScoredResponse:
        """What comes of a response."""
        score, shown = self.start, list[str]()
        for rule in self._rules:
            if not all([self._holds(test, response) for test in rule.tests]):
                continue
            for action, value in rule.changes:
                score = _changed(score, action, value)
            shown += rule.shown
            if not rule.goes_on:
                break
        return ScoredResponse(score, tuple(shown))

    @cached_property
    def _rules(self) -> list[_Rule]:
        """The conditions, taken apart once: each answer that is tried asks all of them."""
        return [
            _Rule(
                [self._test(test) for test in children(variable)],
                list(self._changes(condition)),
                [
                    attribute(found, "linkrefid")
                    for found in children(condition, "displayfeedback")
                ],
                (attribute(condition, "continue") or "No").lower() == "yes",
            )
            for condition in self.conditions
            if (variable := child(condition, "conditionvar")) is not None
        ]

    def _changes(self, condition: etree._Element) -> Iterator[tuple[str, float]]:
        for change in children(condition, "setvar"):
            if attribute(change, "varname") in _SCORE:
                value = number((change.text or "").strip())
                if value is None:
                    self.unknown = True
                else:
                    yield attribute(change, "action") or "Set", value

    def _test(self, test: etree._Element) -> _ResponseTest:
        name, ident = local(test), attribute(test, "respident")
        if name in _JOINED:
            return _ResponseTest(name, parts=[self._test(part) for part in children(test)])
        if name not in _KNOWN:
            self.unknown = True
        wanted = (test.text or "").strip()
        is_exact = ident in self.exact or attribute(test, "case").lower() == "yes"
        return _ResponseTest(name, ident, wanted if is_exact else wanted.casefold(), is_exact)

    def _holds(self, test: _ResponseTest, response: Response) -> bool:
        if test.name == "or":
            return any([self._holds(part, response) for part in test.parts])
        if test.name in _JOINED:
            return all([self._holds(part, response) for part in test.parts]) == (
                test.name == "and"
            )
        return test.name == "other" or _is_given(test, response.get(test.ident, ()))


def _changed(score: float, action: str, value: float) -> float:
    """The score after a change."""
    if action == "Add":
        return score + value
    if action == "Subtract":
        return score - value
    if action == "Multiply":
        return score * value
    if action == "Divide" and value:
        return score / value
    return value


def _is_given(test: _ResponseTest, given: tuple[str, ...]) -> bool:
    """Whether a response is what a test asks for."""
    if test.name == "unanswered":
        return not given
    if test.name in _LIMITS:
        limit = number(test.wanted)
        return limit is not None and any(
            _within(number(value), test.name, limit) for value in given
        )
    values = given if test.is_exact else [value.casefold() for value in given]
    if test.name == "varequal":
        return test.wanted in values
    if test.name == "varsubstring":
        return any(test.wanted in value for value in values)
    if test.name == "varsubset":
        return {part.strip() for part in test.wanted.split(",")} <= set(values)
    return False


def _within(value: float | None, name: str, limit: float) -> bool:
    if value is None:
        return False
    if name == "varlt":
        return value < limit
    if name == "varlte":
        return value <= limit
    if name == "vargt":
        return value > limit
    return value >= limit
