"""What rules answer, and the exceptions before them, by which each address gets the answer of the map."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence

from msgspec import Struct

from newburrow.redirects.rules.learnt import LearntSite
from newburrow.redirects.rules.redirect_rule import RedirectRule, subject_on
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from newburrow.store.redirects.all_answers import AllAnswers

Ask = Callable[[str], tuple[str, int]]


class RightAnswers:
    """How many addresses each rule answers rightly, by site and number."""

    def __init__(self) -> None:
        self.plain = Counter[tuple[str, int]]()
        self.lowering = Counter[tuple[str, int]]()  # of `LearntSite.lowering_rules`


class RuleException(Struct, frozen=True, gc=False):
    """An answer that must be before the rules."""

    row: OldAddress
    guards: bool  # whether a rule would answer otherwise
    plain: bool = True  # whether it is one for servers that cannot lower letters
    lowering: bool = True  # whether it is one for those that can


def first_answer(rules: Sequence[RedirectRule]) -> Ask:
    """A function from a path to the answer of the first rule that matches it, and its number; empty if none does."""
    asked = list(enumerate(rule.asked() for rule in rules))

    def answer(path: str) -> tuple[str, int]:
        for number, ask in asked:
            if found := ask(path):
                return found, number
        return "", 0

    return answer


def exceptions(
    sites: Sequence[LearntSite], answers: AllAnswers, right: RightAnswers
) -> Iterator[RuleException]:
    """The answers that must be before the rules.

    These are the answers that no rule gives, and the addresses of old sites, old or new, that a rule would
    answer and must not. In `right` it counts how many addresses each rule answers rightly.
    """
    asked = {found.site: first_answer(found.rules) for found in sites if found.rules}
    lowering = {
        found.site: first_answer(found.lowering_rules) for found in sites if found.has_lowering
    }
    known = {found.site for found in sites}
    # pages that a rule would answer: few, or it would not have been taken
    seen_keys: set[str] = set()
    for row in answers():
        site = row.key.partition("/")[0]
        if site in asked:
            answer = _answer(asked, site, row, right.plain)
        else:
            answer = ""
        if site in lowering:
            lowered = _answer(lowering, site, row, right.lowering)
        else:
            lowered = answer
        # An address with a query must not get the answer of its path alone.
        may_change = answer or lowered or "?" in row.key
        if row.status == UNCHANGED and may_change and row.key not in seen_keys:
            seen_keys.add(row.key)
            yield RuleException(row, True)
        elif row.status == GONE or (
            row.status == REDIRECTED and (answer != row.new or lowered != row.new)
        ):
            is_gone = row.status == GONE
            yield RuleException(
                row,
                bool(answer),
                is_gone or answer != row.new,
                is_gone or lowered != row.new,
            )
        if row.status != REDIRECTED:
            continue
        new_site = row.new_key.partition("/")[0]
        if new_site not in known or row.new_key in seen_keys:
            continue
        subject = subject_on(new_site, row.new_key)
        is_answered = subject and any(
            rules[new_site](subject)[0] for rules in (asked, lowering) if new_site in rules
        )
        if "?" in row.new_key or is_answered:
            seen_keys.add(row.new_key)
            why = "a page of the new site"
            page = OldAddress.of(row.new, row.new, UNCHANGED, why, row.new_key, row.new_key)
            yield RuleException(page, True)


def _answer(
    asked: dict[str, Ask], site: str, row: OldAddress, right: Counter[tuple[str, int]]
) -> str:
    """What the rules of a site answer for an old address; counts the rule where that is right."""
    subject = subject_on(site, row.key)
    if not subject:
        return ""
    answer, number = asked[site](subject)
    if answer and answer == row.new and row.status == REDIRECTED:
        right[site, number] += 1
    return answer
