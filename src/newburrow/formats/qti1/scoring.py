"""What an answer scores by the response processing of QTI 1.2 (ASI information model, section 3.4.3)."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import chain

from lxml import etree

from newburrow.formats.qti1 import conditions
from newburrow.formats.qti1.conditions import SCORE, ResponseTest
from newburrow.formats.xml_names import attribute, local, number

Response = dict[str, tuple[str, ...]]  # ident of a response -> what a student gave


_JOINED = ("and", "or", "not")
LIMITS = ("varlt", "varlte", "vargt", "vargte")
_UNDERSTOOD = frozenset(
    (*_JOINED, "other", "unanswered", "varequal", "varsubstring", "varsubset", *LIMITS)
)


class Scoring:
    """The response processing of one item."""

    def __init__(self, elements: Sequence[etree._Element], exact: Collection[str]) -> None:
        """`elements` are its `resprocessing`; `exact` names the responses whose values are names, not texts."""
        self.elements = elements
        decvars, asked = list[etree._Element](), list[etree._Element]()
        for found in chain.from_iterable(elements):
            name = local(found)
            if name == "respcondition":
                asked.append(found)
            elif name == "outcomes":
                decvars += [inner for inner in found if local(inner) == "decvar"]
        counted = [found for found in decvars if _name(found) in SCORE]
        if not counted and len(decvars) == 1:  # under a name of its own
            counted = decvars
        scores = {*SCORE, *map(_name, counted)}
        self.conditions = [conditions.read(found, exact, scores) for found in asked]
        # each with the number of `not` around it
        self.tests = [test for condition in self.conditions for test in condition.all_tests()]
        self.start = (
            next((number(attribute(v, "defaultval") or "0") for v in counted), 0) or 0.0
        )
        self.declared = next((number(attribute(v, "maxvalue")) for v in counted), None)

    @property
    def is_understood(self) -> bool:
        """Whether all tests are known and all scores are numbers."""
        if not _UNDERSTOOD.issuperset([test.name for test, _n in self.tests]):
            return False
        return all(
            change.value is not None
            for condition in self.conditions
            for change in condition.changes
            if change.is_of_score
        )

    @property
    def sets_score(self) -> bool:
        """Whether any condition gives points."""
        return any(value > 0 for condition in self.conditions for value in condition.values)

    @property
    def changes_score(self) -> bool:
        """Whether any condition does anything to the score."""
        changes = (change for condition in self.conditions for change in condition.changes)
        return any(change.is_of_score for change in changes)

    @property
    def most(self) -> float:
        """The greatest score: what is declared, else what the conditions add up to or set."""
        if self.declared:
            return self.declared
        changes = [
            (change.action, change.value or 0.0)
            for condition in self.conditions
            for change in condition.changes
        ]
        added = sum(value for action, value in changes if action == "Add" and value > 0)
        greatest = max(
            (value for action, value in changes if action in ("Add", "Set")), default=0.0
        )
        return max(added, greatest, 0.0)

    def score_of(self, response: Response) -> float:
        """What a response scores."""
        score = self.start
        for condition in self.conditions:
            if not _all_hold(condition.tests, response):
                continue
            for change in condition.changes:
                if change.is_of_score and change.value is not None:
                    score = _changed(score, change.action, change.value)
            if not condition.goes_on:
                break
        return score


def _name(decvar: etree._Element) -> str:
    return attribute(decvar, "varname").upper()


def _all_hold(tests: Sequence[ResponseTest], response: Response) -> bool:
    for test in tests:
        if test.name == "varequal" and test.is_exact:  # as most are, and all answers are tried
            if test.wanted not in response.get(test.ident, ()):
                return False
        elif not _holds(test, response):
            return False
    return True


def _holds(test: ResponseTest, response: Response) -> bool:
    name = test.name
    if name == "or":
        return any([_holds(part, response) for part in test.parts])
    if name in _JOINED:
        return _all_hold(test.parts, response) == (name == "and")
    return name == "other" or _is_given(test, response.get(test.ident, ()))


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


def _is_given(test: ResponseTest, given: tuple[str, ...]) -> bool:
    """Whether a response is what a test asks for."""
    if test.name == "unanswered":
        return not given
    if test.name in LIMITS:
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
