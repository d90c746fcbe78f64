"""What an answer scores by the response processing of QTI 1.2 (ASI information model, section 3.4.3)."""

from __future__ import annotations

from collections.abc import Iterator

from lxml import etree
from msgspec import Struct

from newburrow.formats.xml_names import attribute, child, children, descendants, local, number

Response = dict[str, tuple[str, ...]]  # ident of a response -> what a student gave
_SCORE = ("SCORE", "QUE_SCORE", "")


class Outcome(Struct):
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

    def of(self, response: Response) -> Outcome:
        """What comes of a response."""
        score, shown = self.start, list[str]()
        for condition in self.conditions:
            variable = child(condition, "conditionvar")
            if variable is None or not self._holds_all(variable, response):
                continue
            for change in children(condition, "setvar"):
                if attribute(change, "varname") in _SCORE:
                    score = self._changed(score, change)
            shown += [
                attribute(found, "linkrefid")
                for found in children(condition, "displayfeedback")
            ]
            if (attribute(condition, "continue") or "No").lower() != "yes":
                break
        return Outcome(score, tuple(shown))

    def _changed(self, score: float, change: etree._Element) -> float:
        value = number((change.text or "").strip())
        action = attribute(change, "action") or "Set"
        if value is None:
            self.unknown = True
            return score
        if action == "Add":
            return score + value
        if action == "Subtract":
            return score - value
        if action == "Multiply":
            return score * value
        if action == "Divide" and value:
            return score / value
        return value

    def _holds_all(self, element: etree._Element, response: Response) -> bool:
        return all([self._holds(test, response) for test in children(element)])

    def _holds(self, test: etree._Element, response: Response) -> bool:
        name = local(test)
        if name in ("not", "and"):
            return self._holds_all(test, response) == (name == "and")
        if name == "or":
            return any([self._holds(part, response) for part in children(test)])
        if name == "other":
            return True
        return self._is_given(name, test, response)

    def _is_given(self, name: str, test: etree._Element, response: Response) -> bool:
        """Whether a response is what a test asks for."""
        ident = attribute(test, "respident")
        given = response.get(ident, ())
        wanted = (test.text or "").strip()
        if name == "unanswered":
            return not given
        if name in ("varequal", "varsubstring"):
            if ident in self.exact or attribute(test, "case").lower() == "yes":
                pairs = [(value, wanted) for value in given]
            else:
                pairs = [(value.casefold(), wanted.casefold()) for value in given]
            if name == "varequal":
                return any(value == right for value, right in pairs)
            return any(right in value for value, right in pairs)
        if name in ("varlt", "varlte", "vargt", "vargte"):
            limit = number(wanted)
            return limit is not None and any(
                _within(number(value), name, limit) for value in given
            )
        if name == "varsubset":
            parts = {part.strip() for part in wanted.split(",")}
            return parts <= set(given)
        self.unknown = True
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
