"""The right answers of an item of QTI 1.2, found by trying what each answer scores."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from msgspec import Struct

from newburrow.formats.qti1.conditions import ResponseCondition, ResponseTest
from newburrow.formats.qti1.scoring import Response, Scoring
from newburrow.formats.xml_names import number, xml_of
from newburrow.model import Answer, Choice

_NEAR = 1e-6  # of shares that are the same
MOST_TESTS = 2_000_000  # of rules, for all answers that are tried: more would take seconds
_OF_NUMBERS = ("varequal", "varlt", "varlte", "vargt", "vargte")
_MOST_TRIED = 2000  # answers of one question
UNSCORED = ("essay", "text-only", "upload")


class ReadAnswers(Struct, frozen=True):
    """What counts as right."""

    answers: tuple[Answer, ...] = ()
    is_partial: bool = False
    scoring: str = ""  # the response processing, where `answers` cannot say it


class PartsGiven(Struct, frozen=True):
    """What stays the same while answers to one response of several are tried."""

    given: Response  # to the others
    most: float  # the score that the best answer to this response adds


def of(
    kind: str, idents: Sequence[str], choices: Sequence[Choice], scoring: Scoring
) -> ReadAnswers:
    """The answers of a question of a kind; its response processing where trying gives no full score."""
    if kind in UNSCORED or not scoring.elements:
        return ReadAnswers()
    if len(choices) * len(scoring.tests) > MOST_TESTS:
        return ReadAnswers(scoring=written(scoring))
    found = Finder(idents, choices, scoring).of(kind)
    if not scoring.is_understood or (not found.answers and scoring.sets_score):
        return ReadAnswers(found.answers, found.is_partial, written(scoring))
    return found


def written(scoring: Scoring) -> str:
    """The response processing as the file has it."""
    return "".join(xml_of(element) for element in scoring.elements)


class _AskedNumber(Struct, frozen=True):
    """What one condition asks of a number."""

    exact: float | None
    lower: float | None
    upper: float | None
    tried: float  # within the limits


class Finder:
    """Tries answers to an item, or to one of its responses while those to the others stay as they are."""

    def __init__(
        self,
        idents: Sequence[str],
        choices: Sequence[Choice],
        scoring: Scoring,
        others: PartsGiven | None = None,
    ) -> None:
        """`idents` are the responses that belong together, `others` what is given to the rest of a composite."""
        self.idents, self.choices, self.scoring = idents, choices, scoring
        self.given: Response = others.given if others else {}
        self.most = (others.most if others else scoring.most) or 1.0
        self.is_part = others is not None
        self.start = 0.0
        self.nothing = self._share({})
        if self.is_part:
            self.start, self.nothing = self.nothing, 0.0

    def of(self, kind: str) -> ReadAnswers:
        """What counts as right in a question of a kind."""
        ways = {
            "choice": self.single,
            "true-false": self.single,
            "multiple-choice": self.several,
            "order": self.ordered,
            "match": self.pairs,
            "numerical": self.numbers,
        }
        return ways.get(kind, self.texts)()

    def _share(self, response: Response) -> float:
        if self.is_part:
            response = {**self.given, **response}
        return round(self.scoring.score_of(response) / self.most - self.start, 9)

    def _tests(self, condition: ResponseCondition) -> Iterator[tuple[ResponseTest, int]]:
        """The tests of a condition that ask for these responses, each with the number of `not` around it."""
        if not self.is_part:
            return condition.all_tests()
        return (pair for pair in condition.all_tests() if pair[0].ident in self.idents)

    def single(self) -> ReadAnswers:
        """Each choice by itself."""
        ident = self.idents[0]
        shares = (
            (choice.name, self._share({ident: (choice.name,)})) for choice in self.choices
        )
        return ReadAnswers(
            tuple(Answer(name, share=share) for name, share in shares if abs(share) > _NEAR)
        )

    def several(self) -> ReadAnswers:
        """The choices that score by themselves, or those that score together."""
        ident = self.idents[0]
        named = self._named(ident)
        right = tuple(choice.name for choice in self.choices if choice.name in named)
        alone = {
            choice.name: self._share({ident: (choice.name,)}) - self.nothing
            for choice in self.choices
        }
        gains = {name: share for name, share in alone.items() if abs(share) > _NEAR}
        together = sum(share for share in gains.values() if share > 0)
        is_partial = abs(together - 1) < 0.02 and len(gains) > 1
        if is_partial:
            return ReadAnswers(
                tuple(Answer(name, share=round(share, 9)) for name, share in gains.items()),
                True,
            )
        # Where each counts by itself, whatever else is chosen, the score of all choices is the sum.
        everything = self._share({ident: tuple(alone)}) - self.nothing
        adds_up = bool(gains) and abs(everything - sum(gains.values())) < _NEAR
        if right and not adds_up and self._share({ident: right}) > 1 - _NEAR:
            return ReadAnswers(tuple(Answer(name) for name in right))
        shares = tuple(Answer(name, share=round(share, 9)) for name, share in gains.items())
        return ReadAnswers(shares, is_partial=bool(shares))

    def _named(self, ident: str) -> set[str]:
        """The values that conditions with a score ask for, and that they do not exclude."""
        found: set[str] = set()
        for condition in self.scoring.conditions:
            if not any(value > 0 for value in condition.values):
                continue
            for test, negations in self._tests(condition):
                if test.name == "varequal" and test.ident == ident and negations % 2 == 0:
                    found.add(test.value)
        return found

    def ordered(self) -> ReadAnswers:
        """The choices in the order in which the conditions name them."""
        names: list[str] = []
        for condition in self.scoring.conditions:
            equal = [test for test, _n in self._tests(condition) if test.name == "varequal"]
            names = names or [test.value for test in sorted(equal, key=lambda test: test.index)]
        return ReadAnswers(tuple(Answer(name) for name in names if name))

    def pairs(self) -> ReadAnswers:
        """Each source with each target, in its own response or in a group."""
        sources = [choice.name for choice in self.choices if choice.group == "source"]
        targets = [choice.name for choice in self.choices if choice.group == "target"]
        if len(sources) * len(targets) > _MOST_TRIED:
            return ReadAnswers()
        found: dict[tuple[str, str], float] = {}
        for source in sources:
            for target in targets:
                share = self._share(self._pair(source, target)) - self.nothing
                if share > _NEAR:
                    found[source, target] = share
        if found and abs(sum(found.values()) - 1) < 0.02:
            return ReadAnswers(
                tuple(
                    Answer(s, partner=t, share=round(share, 9))
                    for (s, t), share in found.items()
                ),
                len(found) > 1,
            )
        named = [(s, t) for s in sources for t in targets if t in self._named(s)]
        whole: dict[str, tuple[str, ...]] = {}
        for source, target in named:
            whole[source] = (*whole.get(source, ()), target)
        if named and self._share(whole) > 1 - _NEAR:
            return ReadAnswers(tuple(Answer(s, partner=t) for s, t in named))
        return ReadAnswers()

    def _pair(self, source: str, target: str) -> Response:
        if source in self.idents:
            return {source: (target,)}
        return {self.idents[0]: (source, target, f"{source},{target}")}

    def texts(self) -> ReadAnswers:
        """The texts that conditions ask for, of each response."""
        found: dict[tuple[str, str, bool], Answer] = {}
        gaps = len(self.idents) > 1
        for test in self._texts():
            ident, value = test.ident, test.value
            is_pattern = test.name == "varsubstring"
            share = self._share({ident: (value,)}) - self.nothing
            if abs(share) > _NEAR or gaps:
                found[ident, value, is_pattern] = Answer(
                    value,
                    gap=ident if gaps else "",
                    share=round(share, 9) if abs(share) > _NEAR else 1.0,
                    case_sensitive=test.has_case,
                    is_pattern=is_pattern,
                )
        partial = gaps and any(answer.share < 1 - _NEAR for answer in found.values())
        return ReadAnswers(tuple(found.values()), partial)

    def numbers(self) -> ReadAnswers:
        """The numbers and ranges that conditions ask for."""
        found = []
        for asked in self._asked_numbers():
            share = self._share({self.idents[0]: (repr(asked.tried),)})
            if share > _NEAR:
                shown = f"{asked.exact if asked.exact is not None else asked.tried:g}"
                found.append(Answer(shown, share=share, lower=asked.lower, upper=asked.upper))
        return ReadAnswers(tuple(dict.fromkeys(found)))

    def tried_numbers(self) -> list[float]:
        """A number within each range that conditions ask for."""
        return [asked.tried for asked in self._asked_numbers()]

    def _asked_numbers(self) -> Iterator[_AskedNumber]:
        for condition in self.scoring.conditions:
            limits: dict[str, float] = {}
            for test, _negations in self._tests(condition):
                if test.name in _OF_NUMBERS:
                    value = number(test.value)
                else:
                    value = None
                if value is not None:
                    limits.setdefault(test.name, value)
            exact = limits.get("varequal")
            lower = limits.get("vargte", limits.get("vargt"))
            upper = limits.get("varlte", limits.get("varlt"))
            if lower is None and upper is None:
                lower = upper = exact
            tried = next(
                (v for v in (exact, _middle(lower, upper), lower, upper) if v is not None), None
            )
            if tried is not None:
                yield _AskedNumber(exact, lower, upper, tried)

    def _texts(self) -> Iterator[ResponseTest]:
        """The tests for texts by which conditions change the score."""
        for condition in self.scoring.conditions:
            if any(condition.values):
                for test, negations in self._tests(condition):
                    if test.name in ("varequal", "varsubstring") and not negations:
                        yield test


def _middle(lower: float | None, upper: float | None) -> float | None:
    if lower is None or upper is None:
        return None
    return (lower + upper) / 2
