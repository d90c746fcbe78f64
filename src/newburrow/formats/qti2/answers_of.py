"""The answers that tests of response processing look for (QTI 2.1, section 15: expressions)."""

from __future__ import annotations

from collections.abc import Iterator

from lxml import etree

from newburrow.formats.qti2.unknown_rule import UnknownRule
from newburrow.formats.xml_names import attribute, child, children, local, number, words
from newburrow.model import Answer

_LIMITS = {"gte", "gt", "lte", "lt"}
_NUMBERS = ("float", "integer")


def asked(test: etree._Element) -> Iterator[Answer]:
    """The answers that a test looks for. Raises UnknownRule for one that says more than answers can."""
    name = local(test)
    if name == "stringMatch":
        case, part = (attribute(test, key) == "true" for key in ("caseSensitive", "substring"))
        for value in _values(test):
            yield Answer(value, case_sensitive=case, is_pattern=part)
    elif name == "equal" and attribute(test, "toleranceMode") in ("absolute", "relative"):
        yield from _near(test)
    elif name == "equalRounded":
        yield from _rounded(test)
    elif name in ("match", "equal"):
        yield from _exact(test)
    else:
        yield _between(test)


def correct(test: etree._Element) -> Iterator[Answer]:
    """The correct response that a test asks for, as answers."""
    is_number = attribute(_declared(test), "baseType") in _NUMBERS
    for value in _values(test):
        yield _number(value) if is_number else Answer(value)


def _between(test: etree._Element) -> Answer:
    limits = {}
    for part in children(test) if local(test) == "and" else [test]:
        limits[local(part)] = number(words(child(part, "baseValue")))
    lower, upper = limits.get("gte", limits.get("gt")), limits.get("lte", limits.get("lt"))
    if not limits.keys() <= _LIMITS or (lower is None and upper is None):
        raise UnknownRule
    middle = [value for value in (lower, upper) if value is not None]
    return Answer(f"{sum(middle) / len(middle):g}", lower=lower, upper=upper)


def _exact(test: etree._Element) -> Iterator[Answer]:
    """A value of a response that takes one; letter case counts in a match (section 15.2)."""
    declared = _declared(test)
    if attribute(declared, "cardinality") != "single":
        raise UnknownRule
    type_ = attribute(declared, "baseType")
    for value in _values(test):
        if type_ in _NUMBERS:
            yield _number(value)
        else:
            yield Answer(value, case_sensitive=type_ == "string")


def _near(test: etree._Element) -> Iterator[Answer]:
    """Numbers within a tolerance: one, or one below and one above."""
    tolerances = [number(word) for word in attribute(test, "tolerance").split()]
    if not tolerances or None in tolerances:
        raise UnknownRule
    below, above = tolerances[0] or 0.0, tolerances[-1] or 0.0
    for value in _values(test):
        exact = number(value)
        if exact is None:
            raise UnknownRule
        if attribute(test, "toleranceMode") == "relative":
            unit = abs(exact) / 100
        else:
            unit = 1.0
        yield _number(value, below * unit, above * unit)


def _rounded(test: etree._Element) -> Iterator[Answer]:
    """Numbers that are the same once rounded to so many decimal places."""
    places = number(attribute(test, "figures"))
    if attribute(test, "roundingMode") != "decimalPlaces" or places is None:
        raise UnknownRule
    half = 0.5 * 10 ** -int(places)
    for value in _values(test):
        yield _number(value, half, half)


def _number(value: str, below: float = 0.0, above: float = 0.0) -> Answer:
    exact = number(value)
    if exact is None:
        raise UnknownRule
    return Answer(value, lower=round(exact - below, 12), upper=round(exact + above, 12))


def _values(test: etree._Element) -> list[str]:
    """The value that a test has, or the values of the correct response that it names."""
    value = child(test, "baseValue")
    if value is not None:
        _declared(test)
        return [words(value)]
    holder = child(_declared(test), "correctResponse")
    if holder is not None:
        found = [words(v) for v in children(holder, "value")]
    else:
        found = []
    if child(test, "correct") is None or not found:
        raise UnknownRule
    return found


def _declared(test: etree._Element) -> etree._Element:
    """The declaration of the response that a test asks for."""
    variable = child(test, "variable")
    name = attribute(variable, "identifier") if variable is not None else ""
    root = test.getroottree().getroot()
    for declared in children(root, "responseDeclaration"):
        if attribute(declared, "identifier") == name:
            return declared
    raise UnknownRule
