"""What scores by the response processing of QTI 2: the standard templates, mappings, and rules that say as much.

QTI 2.1, section 8. Rules may ask whether a response is the correct one, map it, look for a text in it, or hold a
number against limits; anything else is kept as it stands.
"""

from __future__ import annotations

from lxml import etree
from msgspec import Struct
from msgspec.structs import replace

from newburrow.formats.qti2 import answers_of
from newburrow.formats.qti2.unknown_rule import UnknownRule
from newburrow.formats.xml_names import (
    attribute,
    child,
    children,
    descendants,
    local,
    number,
    words,
    xml_of,
)
from newburrow.model import Answer

_BRANCHES = ("responseIf", "responseElseIf")


class Processing(Struct, frozen=True):
    """How an item is scored."""

    most: float | None = None  # the greatest score; None where nothing is scored
    is_mapped: bool = False  # whether each answer has a value of its own
    needs_all: bool = False  # whether these are worth 1 each, and score only all together
    found: tuple[Answer, ...] = ()  # answers that the rules themselves name
    kept: str = ""  # what says more than correct answers, mappings and such rules can


def of(root: etree._Element, declared: dict[str, etree._Element]) -> Processing:
    """The scoring of an item."""
    element = child(root, "responseProcessing")
    mapped = [found for found in declared.values() if child(found, "mapping") is not None]
    scored = declared_most(root)
    if element is None:
        return _unscored(scored, mapped)
    template = (
        attribute(element, "template").rstrip("/").rpartition("/")[2].removesuffix(".xml")
    )
    if template == "match_correct":
        return Processing(1.0 if scored is None else scored)
    if template == "map_response":
        return Processing(scored or most_mapped(mapped), True)
    try:
        rules = _Rules(element, scored)
    except UnknownRule:
        kept = xml_of(element)
        return Processing(scored, bool(mapped) and _maps(element), kept=kept)
    if rules.is_mapped:
        return Processing(scored or most_mapped(mapped), True)
    if rules.needs_all:
        return Processing(scored or max(rules.values, default=1.0), True, needs_all=True)
    if not rules.scores:
        return _unscored(scored, mapped)
    most = scored if scored is not None else max(rules.values, default=None)
    found = tuple(
        replace(answer, share=1.0 if value is None else round(value / (most or 1.0), 9))
        for answer, value in rules.answers
    )
    return Processing(most, found=found)


def _unscored(most: float | None, mapped: list[etree._Element]) -> Processing:
    """An item whose answers nothing scores; the values of a mapping still say which are right."""
    values = (value for found in mapped for value, _case in mapping_of(found).values())
    return Processing(most, any(value > 0 for value in values))


class _Rules:
    """The rules of an item that set its score. Raises UnknownRule for one that says what is not understood."""

    def __init__(self, element: etree._Element, most: float | None) -> None:
        """`most` is the greatest score, as the item states it."""
        self.most = most
        self.is_mapped = self.needs_all = False
        self.correct: list[tuple[etree._Element, float | None]] = []
        self.values: list[float] = []
        self.answers: list[tuple[Answer, float | None]] = []  # None: the greatest score
        if attribute(element, "template"):
            raise UnknownRule
        for rule in children(element):
            if not sets_score(rule):
                continue
            if local(rule) == "setOutcomeValue":
                self._mapping(rule)
            elif local(rule) == "responseCondition":
                for branch in children(rule):
                    self._branch(branch)
            else:
                raise UnknownRule
        self._with_correct()

    @property
    def scores(self) -> bool:
        """Whether any rule gives points for an answer."""
        return bool(self.is_mapped or self.correct or self.values)

    def _mapping(self, rule: etree._Element) -> None:
        """A score that is the sum of mapped responses."""
        inside = {local(found) for found in rule.iterdescendants()}
        if "mapResponse" not in inside or inside - {"mapResponse", "sum", "variable"}:
            raise UnknownRule
        self.is_mapped = True

    def _branch(self, branch: etree._Element) -> None:
        rules = [
            rule
            for rule in children(branch, "setOutcomeValue")
            if attribute(rule, "identifier") == "SCORE"
        ]
        if local(branch) == "responseElse":
            if any((number(words(child(rule, "baseValue"))) or 0) for rule in rules):
                raise UnknownRule
            return
        tests = [found for found in children(branch) if local(found) != "setOutcomeValue"]
        if local(branch) not in _BRANCHES or len(tests) != 1:
            raise UnknownRule
        for rule in rules:
            if _maps(rule):
                self._mapping(rule)
                continue
            self._test(tests[0], self._value(rule))

    @staticmethod
    def _value(rule: etree._Element) -> float | None:
        """The score that a rule gives; None for the greatest one."""
        variable = child(rule, "variable")
        if variable is not None and attribute(variable, "identifier") == "MAXSCORE":
            return None
        value = number(words(child(rule, "baseValue")))
        if value is None:
            raise UnknownRule
        return value

    def _test(self, test: etree._Element, value: float | None) -> None:
        if local(test) == "isNull":
            return
        parts = list(children(test)) if local(test) == "and" else []
        if parts and all(map(_is_full, parts)):
            self.needs_all = True
            self.values += [] if value is None else [value]
            return
        full = value is None
        value = self.most if full else value
        if is_correct(test) or (local(test) == "and" and all(map(is_correct, children(test)))):
            if value is not None:
                self.values.append(value)
            self.correct.append((test, value))
            return
        if value is None:
            raise UnknownRule
        self.values.append(value)
        worth = None if full else value
        self.answers += [(answer, worth) for answer in answers_of.asked(test)]

    def _with_correct(self) -> None:
        """Where other answers score too, name the correct response as one of them."""
        for test, value in self.correct if self.answers else ():
            if value is None or local(test) == "and":
                raise UnknownRule
            self.answers += [(answer, value) for answer in answers_of.correct(test)]


def _is_full(test: etree._Element) -> bool:
    """Whether a test asks whether a response is worth 1 by its mapping."""
    value = child(test, "baseValue")
    is_mapped = local(test) == "gte" and child(test, "mapResponse") is not None
    return is_mapped and value is not None and number(words(value)) == 1


def is_correct(test: etree._Element) -> bool:
    """Whether a test asks for the correct response, and takes nothing near it."""
    return (
        local(test) in ("match", "equal")
        and child(test, "correct") is not None
        and child(test, "variable") is not None
        and attribute(test, "toleranceMode") in ("", "exact")
    )


def sets_score(rule: etree._Element) -> bool:
    """Whether a rule, or one within it, changes the score."""
    if local(rule) == "setOutcomeValue":
        return attribute(rule, "identifier") == "SCORE"
    return any(
        attribute(found, "identifier") == "SCORE"
        for found in descendants(rule, "setOutcomeValue")
    )


def _maps(element: etree._Element) -> bool:
    return next(descendants(element, "mapResponse"), None) is not None


def mapping_of(declared: etree._Element) -> dict[str, tuple[float, bool]]:
    """The values of answers of a response: key -> value, whether letter case counts, as it does by default."""
    mapping = child(declared, "mapping")
    found = {}
    for entry in children(mapping, "mapEntry") if mapping is not None else ():
        value = number(attribute(entry, "mappedValue")) or 0.0
        found[attribute(entry, "mapKey")] = (
            value,
            attribute(entry, "caseSensitive") != "false",
        )
    return found


def default_of(declared: etree._Element) -> float:
    """The value that a mapping gives to answers that it does not list."""
    mapping = child(declared, "mapping")
    if mapping is not None:
        return number(attribute(mapping, "defaultValue")) or 0.0
    return 0.0


def declared_most(root: etree._Element) -> float | None:
    """The greatest score that an item states; None where it states none."""
    named = {
        attribute(found, "identifier"): found for found in children(root, "outcomeDeclaration")
    }
    if "MAXSCORE" in named:
        value = number(words(child(named["MAXSCORE"], "defaultValue/value")))
        if value is not None:
            return value
    if "SCORE" in named:
        return number(attribute(named["SCORE"], "normalMaximum"))
    return None


def most_mapped(mapped: list[etree._Element]) -> float:
    """The greatest score that responses with a mapping add up to; 0 where a bound keeps it there."""
    total, is_bound = 0.0, False
    for declared in mapped:
        values = [value for value, _case in mapping_of(declared).values() if value > 0]
        several = attribute(declared, "cardinality") != "single"
        most = sum(values) if several else max(values, default=0.0)
        mapping = child(declared, "mapping")
        if mapping is not None:
            bound = number(attribute(mapping, "upperBound"))
        else:
            bound = None
        is_bound = is_bound or bound == 0
        total += min(most, bound) if bound is not None else most
    return total or (0.0 if is_bound else 1.0)
