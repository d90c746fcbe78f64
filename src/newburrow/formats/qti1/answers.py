"""The right answers of an item of QTI 1.2, found by trying what each answer scores."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lxml import etree
from msgspec import Struct

from newburrow.formats.qti1.conditions import ResponseTest
from newburrow.formats.qti1.scoring import Response, Scoring
from newburrow.formats.xml_names import attribute, number
from newburrow.model import Answer, Choice

_NEAR = 1e-6  # of shares that are the same
_MOST_TESTS = 2_000_000  # of rules, for all answers that are tried: more would take seconds
_OF_NUMBERS = ("varequal", "varlt", "varlte", "vargt", "vargte")
_MOST_TRIED = 2000  # answers of one question


class ReadAnswers(Struct, frozen=True):
    """What counts as right."""

    answers: tuple[Answer, ...] = ()
    is_partial: bool = False
    scoring: str = ""  # the response processing, where `answers` cannot say it


def of(
    kind: str, responses: Sequence[etree._Element], choices: Sequence[Choice], scoring: Scoring
) -> ReadAnswers:
    """The answers of a question of a kind; its response processing where trying gives no full score."""
    if kind in ("essay", "text-only", "upload") or not scoring.elements:
        return ReadAnswers()
    if len(choices) * len(scoring.tests) > _MOST_TESTS:
        return ReadAnswers(scoring=_written(scoring))
    finder = _Finder(responses, choices, scoring)
    found = {
        "choice": finder.single,
        "true-false": finder.single,
        "multiple-choice": finder.several,
        "order": finder.ordered,
        "match": finder.pairs,
        "numerical": finder.numbers,
    }.get(kind, finder.texts)()
    if not scoring.is_understood or (not found.answers and scoring.sets_score):
        return ReadAnswers(found.answers, found.is_partial, _written(scoring))
    return found


def _written(scoring: Scoring) -> str:
    return "".join(
        etree.tostring(element, encoding="unicode", with_tail=False)
        for element in scoring.elements
    )


class _Finder:
    """Tries answers to one item."""

    def __init__(
        self, responses: Sequence[etree._Element], choices: Sequence[Choice], scoring: Scoring
    ) -> None:
        self.responses, self.choices, self.scoring = responses, choices, scoring
        self.idents = [attribute(response, "ident") for response in responses]
        self.most = scoring.most or 1.0
        self.nothing = self._share({})

    def _share(self, response: Response) -> float:
        return round(self.scoring.score_of(response) / self.most, 9)

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
        if right and self._share({ident: right}) > 1 - _NEAR:
            return ReadAnswers(tuple(Answer(name) for name in right))
        return ReadAnswers(tuple(Answer(name, share=share) for name, share in gains.items()))

    def _named(self, ident: str) -> set[str]:
        """The values that conditions with a score ask for, and that they do not exclude."""
        found: set[str] = set()
        for condition in self.scoring.conditions:
            if not any(value > 0 for value in condition.values):
                continue
            for test, negations in condition.all_tests():
                if test.name == "varequal" and test.ident == ident and negations % 2 == 0:
                    found.add(test.value)
        return found

    def ordered(self) -> ReadAnswers:
        """The choices in the order in which the conditions name them."""
        names: list[str] = []
        for condition in self.scoring.conditions:
            equal = [test for test, _n in condition.all_tests() if test.name == "varequal"]
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
        for condition in self.scoring.conditions:
            limits: dict[str, float] = {}
            for test, _negations in condition.all_tests():
                value = number(test.value) if test.name in _OF_NUMBERS else None
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
            share = self._share({self.idents[0]: (repr(tried),)}) if tried is not None else 0.0
            if tried is not None and share > _NEAR:
                shown = f"{exact if exact is not None else tried:g}"
                found.append(Answer(shown, share=share, lower=lower, upper=upper))
        return ReadAnswers(tuple(found))

    def _texts(self) -> Iterator[ResponseTest]:
        """The tests for texts by which conditions change the score."""
        for condition in self.scoring.conditions:
            if any(condition.values):
                for test, negations in condition.all_tests():
                    if test.name in ("varequal", "varsubstring") and not negations:
                        yield test


def _middle(lower: float | None, upper: float | None) -> float | None:
    if lower is None or upper is None:
        return None
    return (lower + upper) / 2
