"""What rules answer, and the exceptions before them, by which each address gets the answer of the map."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence

from newburrow.redirects.rules.learnt import LearntSite
from newburrow.redirects.rules.redirect_rule import RedirectRule, subject_on
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from newburrow.store.redirects.all_answers import AllAnswers


def first_answer(rules: Sequence[RedirectRule]) -> Callable[[str], tuple[str, int]]:
    """A function from a path to the answer of the first rule that matches it, and its number; empty if none does."""
    asked = list(enumerate(rule.asked() for rule in rules))

    def answer(path: str) -> tuple[str, int]:
        for number, ask in asked:
            if found := ask(path):
                return found, number
        return "", 0

    return answer


def exceptions(
    sites: Sequence[LearntSite], answers: AllAnswers, right: Counter[tuple[str, int]]
) -> Iterator[tuple[OldAddress, bool]]:
    """The answers that must be before the rules, each with whether a rule would answer otherwise.

    In `right` it counts how many addresses each rule, by site and number, answers rightly.

    These are the answers that no rule gives, and the addresses of old sites, old or new, that a rule would
    answer and must not.
    """
    asked = {found.site: first_answer(found.rules) for found in sites if found.rules}
    known = {found.site for found in sites}
    # pages that a rule would answer: few, or it would not have been taken
    seen_keys: set[str] = set()
    for row in answers():
        site = row.key.partition("/")[0]
        ask = asked.get(site)
        answer = ""
        if ask and (subject := subject_on(site, row.key)):
            answer, number = ask(subject)
            if answer and answer == row.new and row.status == REDIRECTED:
                right[site, number] += 1
        # An address with a query must not get the answer of its path alone.
        may_change = answer or "?" in row.key
        if row.status == UNCHANGED and may_change and row.key not in seen_keys:
            seen_keys.add(row.key)
            yield row, True
        elif row.status == GONE or (row.status == REDIRECTED and answer != row.new):
            yield row, bool(answer)
        if row.status != REDIRECTED:
            continue
        new_site = row.new_key.partition("/")[0]
        if new_site not in known or row.new_key in seen_keys:
            continue
        ask = asked.get(new_site)
        subject = subject_on(new_site, row.new_key)
        if "?" in row.new_key or (ask and subject and ask(subject)[0]):
            seen_keys.add(row.new_key)
            why = "a page of the new site"
            page = OldAddress.of(row.new, row.new, UNCHANGED, why, row.new_key, row.new_key)
            yield page, True
