"""How a composite item of QTI 2 is scored: part by part, or only all together (QTI 2.1, sections 2 and 8)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from lxml import etree
from msgspec import Struct
from msgspec.structs import replace

from newburrow.formats.qti2 import answers_of, processing
from newburrow.formats.qti2.processing import Processing
from newburrow.formats.qti2.unknown_rule import UnknownRule
from newburrow.formats.xml_names import attribute, child, children, local, number, words, xml_of
from newburrow.model import Answer

_NEAR = 1e-6  # of points that are the same
_ONLY = "RESPONSE"  # the response that the standard templates ask for


class CompositeScoring(Struct, frozen=True):
    """How the parts of an item are scored."""

    most: float | None = None  # the greatest score of all of them
    is_partial: bool = False  # whether each counts by itself
    parts: dict[str, Processing] = {}  # response -> how it is scored
    kept: str = ""  # rules that say more

    def of_part(self, response: str) -> Processing:
        """How one part is scored; one that is not scored gives no points."""
        return self.parts.get(response) or Processing(0.0)


def of(root: etree._Element, declared: dict[str, etree._Element]) -> CompositeScoring:
    """The scoring of an item whose responses are declared so."""
    element = child(root, "responseProcessing")
    most = processing.declared_most(root)
    if element is None:
        return CompositeScoring(most)
    if attribute(element, "template"):
        return _of_template(root, declared)
    try:
        return _CompositeRules(element, declared, most).scoring()
    except UnknownRule:
        kept = xml_of(element)
        return CompositeScoring(most, kept=kept)


def _of_template(root: etree._Element, declared: dict[str, etree._Element]) -> CompositeScoring:
    """The scoring of a standard template: of the response that it asks for, else of the only one that has an answer."""
    answered = [
        name
        for name, found in declared.items()
        if child(found, "correctResponse") is not None or child(found, "mapping") is not None
    ]
    if _ONLY in declared:
        name = _ONLY
    else:
        name = "".join(answered if len(answered) == 1 else ())
    scored = processing.of(root, {name: declared[name]} if name else {})
    return CompositeScoring(scored.most, True, {name: scored}, scored.kept)


class _CompositeRules:
    """Rules that add to the score, or set it where all is right. Raises UnknownRule for any other."""

    def __init__(
        self, element: etree._Element, declared: dict[str, etree._Element], most: float | None
    ) -> None:
        self.declared, self.most = declared, most
        self.parts: dict[str, Processing] = {}
        self.together: dict[str, Processing] = {}
        for rule in children(element):
            if not processing.sets_score(rule):
                continue
            if local(rule) == "setOutcomeValue":
                self._add(rule)
            elif local(rule) == "responseCondition":
                self._condition(list(children(rule)))
            else:
                raise UnknownRule

    def scoring(self) -> CompositeScoring:
        """What the rules say as a whole; points that no rule gives are for what a person grades."""
        if self.parts and self.together:
            raise UnknownRule
        if self.together:
            return CompositeScoring(self.most, parts=self.together)
        total = sum(part.most or 0.0 for part in self.parts.values())
        most = total if self.most is None else self.most
        by_hand = [name for name in self.declared if name not in self.parts]
        rest = most - total
        if not self.parts or rest < -_NEAR or (rest > _NEAR and not by_hand):
            raise UnknownRule
        graded = {name: Processing(round(max(rest, 0.0) / len(by_hand), 9)) for name in by_hand}
        return CompositeScoring(most, True, self.parts | graded)

    def _add(self, rule: etree._Element) -> None:
        """A score that is a sum of mapped responses, and of the score so far."""
        for term in _terms(rule):
            if local(term) == "mapResponse":
                self._settle(attribute(term, "identifier"), self._mapped(term))
            elif not _is_score(term):
                raise UnknownRule

    def _mapped(self, term: etree._Element) -> Processing:
        declared = self.declared.get(attribute(term, "identifier"))
        if declared is None:
            raise UnknownRule
        return Processing(processing.most_mapped([declared]), True)

    def _settle(self, name: str, scored: Processing) -> None:
        if name not in self.declared or name in self.parts:
            raise UnknownRule
        self.parts[name] = scored

    def _condition(self, branches: list[etree._Element]) -> None:
        """Branches that add points for answers to one response, or that ask whether all is right."""
        found: dict[str, list[tuple[Answer | None, float]]] = {}
        for branch in branches:
            rules = [
                rule
                for rule in children(branch, "setOutcomeValue")
                if processing.sets_score(rule)
            ]
            tests = [test for test in children(branch) if local(test) != "setOutcomeValue"]
            if local(branch) == "responseElse":
                if any(number(words(child(rule, "baseValue"))) != 0 for rule in rules):
                    raise UnknownRule
                continue
            if len(tests) != 1 or len(rules) != 1:
                raise UnknownRule
            points = _added(rules[0])
            if points is None:
                self._all(tests[0], rules[0])
                continue
            name = _response(tests[0])
            answers: list[Any] = (
                [None] if processing.is_correct(tests[0]) else list(answers_of.asked(tests[0]))
            )
            found.setdefault(name, []).extend((answer, points) for answer in answers)
        for name, answers in found.items():
            self._settle(name, _by_answers(answers))

    def _all(self, test: etree._Element, rule: etree._Element) -> None:
        """A test whether all responses are right, and the score for that."""
        tests = list(children(test)) if local(test) == "and" else [test]
        asked = {_response(part): part for part in tests}
        scored = {
            name
            for name, found in self.declared.items()
            if child(found, "correctResponse") is not None
            or child(found, "mapping") is not None
        }
        if (
            self.together
            or len(asked) < len(tests)
            or not scored <= asked.keys() <= self.declared.keys()
        ):
            raise UnknownRule
        self.together = {name: self._right(name, part) for name, part in asked.items()}
        value = child(rule, "baseValue")
        self.most = number(words(value)) if value is not None else self.most

    def _right(self, name: str, test: etree._Element) -> Processing:
        """What is right in one part: its correct response, a mapped value, or what the test says."""
        if processing.is_correct(test):
            return Processing()
        mapped = child(test, "mapResponse")
        if local(test) == "gte" and mapped is not None:
            return self._mapped(mapped)
        ways = children(test) if local(test) == "or" else (test,)
        return Processing(
            found=tuple(answer for way in ways for answer in answers_of.asked(way))
        )


def _terms(rule: etree._Element) -> Iterator[etree._Element]:
    """What a score is the sum of."""
    for expression in children(rule):
        yield from children(expression) if local(expression) == "sum" else (expression,)


def _is_score(term: etree._Element) -> bool:
    return local(term) == "variable" and attribute(term, "identifier") == "SCORE"


def _added(rule: etree._Element) -> float | None:
    """The points that a rule adds to the score; None for one that sets it."""
    terms = list(_terms(rule))
    values = [number(words(term)) for term in terms if local(term) == "baseValue"]
    if len(terms) == 2 and any(map(_is_score, terms)) and len(values) == 1:
        return values[0]
    return None


def _response(test: etree._Element) -> str:
    """The one response that a test asks for."""
    names = {
        attribute(found, "identifier")
        for found in test.iter("{*}variable", "{*}correct", "{*}mapResponse")
    }
    if len(names) != 1:
        raise UnknownRule
    return names.pop()


def _by_answers(answers: list[tuple[Answer | None, float]]) -> Processing:
    """The scoring of a part by what its answers add: one that is the correct response, or several that are named."""
    most = max(points for _answer, points in answers)
    named = [(answer, points) for answer, points in answers if answer is not None]
    if not named and len(answers) == 1:
        return Processing(most)
    if len(named) < len(answers) or most <= 0:
        raise UnknownRule
    return Processing(
        most,
        found=tuple(replace(answer, share=round(points / most, 9)) for answer, points in named),
    )
