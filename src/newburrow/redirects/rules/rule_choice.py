"""Which of the candidates become rules: those that spare the most lines, if nearly all that they answer is right."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

from newburrow.redirects.rules.redirect_rule import (
    MOST_PARTS,
    PathPart,
    RedirectRule,
    subject_on,
)
from newburrow.store.journal.rows import GONE, REDIRECTED, OldAddress

WORTH = 3  # lines that a rule must save
_RIGHT = 0.99  # share of right answers that a rule must give
_ENOUGH = 30  # right answers for which one wrong one is forgiven
# Why an address is another than that of its kind, and what a name that was taken gets.
_FORMER = ("other address", "redirect of the old site", "known from elsewhere")
_NUMBERED = re.compile(r"-\d+(?=(?:\.\w+)?/?$)")


class _Masks(NamedTuple):
    """What the candidates say of one address, a bit for each."""

    answering: int
    right: int
    excused: int  # wrong for a reason that says nothing of the others
    is_redirect: bool


Looked = Counter[_Masks]  # -> how many addresses there are of a kind


def looked_at(
    site: str, candidates: Sequence[RedirectRule], rows: Iterable[OldAddress]
) -> Looked:
    """How many addresses there are of each kind that the candidates tell apart."""
    looked: Looked = Counter()
    asked = _CandidateIndex(candidates)
    for row in rows:
        subject = subject_on(site, row.key)
        # What is gone is gone by decision, and says nothing of its kind.
        if subject and row.status != GONE:
            looked[_masks(asked, subject, row)] += 1
        if row.status == REDIRECTED and (subject := subject_on(site, row.new_key)):
            masks = _masks(asked, subject, None)
            if masks.answering:
                looked[masks] += 1
    return looked


class _CandidateIndex:
    """The candidates that can be about a path, by what is plain to see of it; of many few are asked so."""

    def __init__(self, candidates: Sequence[RedirectRule]) -> None:
        self._all = [(number, rule, rule.asked()) for number, rule in enumerate(candidates)]
        self._words = {part.word for rule in candidates for part in rule.parts}
        self._found: dict[tuple[int, str, str], list[tuple[int, Callable[[str], str]]]] = {}

    def about(self, path: str) -> list[tuple[int, Callable[[str], str]]]:
        """Number and rule of the candidates for paths with so many segments and such a first and last one."""
        segments = path.partition("?")[0].strip("/").split("/")
        count = min(len(segments), MOST_PARTS + 1)
        seen = count, self._seen(segments[0]), self._seen(segments[-1])
        if seen not in self._found:
            self._found[seen] = [(n, ask) for n, rule, ask in self._all if _can_be(rule, *seen)]
        return self._found[seen]

    def _seen(self, segment: str) -> str:
        if segment in self._words:
            return segment
        if segment.isdigit():
            return "0"
        return ""


def _can_be(rule: RedirectRule, count: int, first: str, last: str) -> bool:
    """Whether a rule can be about such a path; of a file's name nothing is told."""
    if rule.parts[0].kind == "path" or rule.parameter:
        return True
    segments = [
        [part, *(later for later in rule.parts[n + 1 :][:1] if later.mark != "/")]
        for n, part in enumerate(rule.parts)
        if part.mark == "/"
    ]
    if len(segments) != count:
        return False
    if not rule.extension:
        ends = [(segments[0], first), (segments[-1], last)]
    elif count > 1:
        ends = [(segments[0], first)]
    else:
        ends = []
    return all(_may_be(parts, seen) for parts, seen in ends)


def _may_be(parts: list[PathPart], seen: str) -> bool:
    """Whether a segment of a rule can be this one; of a date with hyphens nothing is told."""
    part = parts[0]
    if len(parts) > 1:
        return True
    if not part.kind:
        return seen == part.word
    return part.kind == "name" or seen.isdigit()


def _masks(asked: _CandidateIndex, subject: str, row: OldAddress | None) -> _Masks:
    """What the candidates say of an old address, or without an answer of a page of the new site."""
    answering = right = excused = 0
    is_redirect = row is not None and row.status == REDIRECTED
    for number, ask in asked.about(subject):
        if answer := ask(subject):
            answering |= 1 << number
            if row is None or not is_redirect:
                continue
            if answer == row.new:
                right |= 1 << number
            elif _is_excused(row, answer):
                excused |= 1 << number
    return _Masks(answering, right, excused, is_redirect)


def _is_excused(row: OldAddress, answer: str) -> bool:
    """Whether an address is known to go elsewhere: it is a former one, or its new name got a number."""
    return row.why.startswith(_FORMER) or _NUMBERED.sub("", row.new) == answer


def chosen_from(looked: Looked, among: Sequence[int], most: int) -> list[int]:
    """The rules taken one after another, each the one that spares the most lines, before those taken or after them."""
    chosen: list[int] = []
    lines = line_count(looked, chosen)
    while len(chosen) < most:
        orders = sorted(
            (order for n in among if n not in chosen for order in ([*chosen, n], [n, *chosen])),
            key=lambda order: line_count(looked, order),
        )
        best = next((order for order in orders if is_right(looked, order)), chosen)
        if lines - line_count(looked, best) < WORTH:
            break
        chosen, lines = best, line_count(looked, best)
    return chosen


def is_right(looked: Looked, order: Sequence[int]) -> bool:
    """Whether nearly all that each rule answers in this order is right."""
    right, wrong = Counter[int](), Counter[int]()
    for masks, count in looked.items():
        first = next((number for number in order if masks.answering >> number & 1), None)
        if first is not None and not masks.excused >> first & 1:
            (right if masks.right >> first & 1 else wrong)[first] += count
    return all(
        right[n] >= _RIGHT * (right[n] + wrong[n]) or (wrong[n] == 1 and right[n] >= _ENOUGH)
        for n in order
    )


def is_mostly_right(looked: Looked, number: int) -> bool:
    """Whether a rule gives the right answer for most redirects."""
    redirects = sum(count for masks, count in looked.items() if masks.is_redirect)
    right = sum(count for masks, count in looked.items() if masks.right >> number & 1)
    return right * 2 >= redirects


def line_count(looked: Looked, order: Sequence[int]) -> int:
    """How many lines rules in an order and their exceptions come to."""
    lines = len(order)
    for masks, count in looked.items():
        first = next((number for number in order if masks.answering >> number & 1), None)
        wrong = first is not None and not masks.right >> first & 1
        if wrong or (masks.is_redirect and first is None):
            lines += count
    return lines
