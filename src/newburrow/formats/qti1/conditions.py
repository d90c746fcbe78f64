"""The conditions of the response processing of QTI 1.2, read once: what each asks and what it does.

See the ASI information model, section 3.4.3.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator

from lxml import etree
from msgspec import Struct

from newburrow.formats.xml_names import attribute, local, number

SCORE = ("SCORE", "QUE_SCORE", "")  # names of the variable that is counted


class ResponseTest(Struct, frozen=True):
    """One test of a condition."""

    name: str
    ident: str  # of the response
    value: str  # that is asked for, as it stands
    has_case: bool  # whether the test says that letter case counts
    is_exact: bool  # whether it counts, also since the values are names
    wanted: str  # the value, in folded letters where their case does not count
    index: float  # place of the value in an ordered response; 0 where there is none
    parts: tuple[ResponseTest, ...] = ()  # of one that joins others


_WITHOUT_VALUE = ("and", "or", "not", "other")  # tests that name no response themselves
# of a condition that lacks the element in which it asks something
_NEVER = ResponseTest("", "", "", False, False, "", 0.0)


class ScoreChange(Struct, frozen=True):
    """What a condition does to a variable."""

    action: str
    value: float | None  # None where it is not a number
    is_of_score: bool


class ResponseCondition(Struct, frozen=True):
    """What a condition asks, what it does, what it shows, and whether the next ones are asked."""

    tests: tuple[ResponseTest, ...]
    changes: tuple[ScoreChange, ...]
    shown: tuple[str, ...]  # idents of feedback
    goes_on: bool

    @property
    def values(self) -> list[float]:
        """The numbers that it adds, sets and so on; 0 for what is not a number."""
        return [change.value or 0.0 for change in self.changes]

    def all_tests(self) -> Iterator[tuple[ResponseTest, int]]:
        """Its tests and those in them, in document order, each with the number of `not` around it."""
        return _with_negations(self.tests, 0)


def read(
    condition: etree._Element, exact: Collection[str], scores: Collection[str]
) -> ResponseCondition:
    """One `respcondition`.

    `exact` names the responses whose values are names, `scores` the variables that count, in capitals.
    """
    tests, changes, shown = None, list[ScoreChange](), list[str]()
    for found in condition:
        name = local(found)
        if name == "conditionvar" and tests is None:
            tests = _tests(found, exact)
        elif name == "setvar":
            changes.append(_change(found, scores))
        elif name == "displayfeedback":
            shown.append(attribute(found, "linkrefid"))
    goes_on = attribute(condition, "continue").lower() == "yes"
    asked = (_NEVER,) if tests is None else tests
    return ResponseCondition(asked, tuple(changes), tuple(shown), goes_on)


def _tests(above: etree._Element, exact: Collection[str]) -> tuple[ResponseTest, ...]:
    return tuple([_test(found, name, exact) for found in above if (name := local(found))])


def _test(found: etree._Element, name: str, exact: Collection[str]) -> ResponseTest:
    parts = _tests(found, exact) if len(found) else ()
    if name in _WITHOUT_VALUE:
        return ResponseTest(name, "", "", False, False, "", 0.0, parts)
    ident, value = attribute(found, "respident"), (found.text or "").strip()
    has_case = attribute(found, "case").lower() == "yes"
    is_exact = has_case or ident in exact
    index = attribute(found, "index")
    return ResponseTest(
        name,
        ident,
        value,
        has_case,
        is_exact,
        value if is_exact else value.casefold(),
        (index and number(index)) or 0.0,
        parts,
    )


def _change(found: etree._Element, scores: Collection[str]) -> ScoreChange:
    return ScoreChange(
        attribute(found, "action") or "Set",
        number((found.text or "").strip()),
        attribute(found, "varname").upper() in scores,
    )


def _with_negations(
    tests: Iterable[ResponseTest], negations: int
) -> Iterator[tuple[ResponseTest, int]]:
    for test in tests:
        yield test, negations
        if test.parts:
            yield from _with_negations(test.parts, negations + (test.name == "not"))
