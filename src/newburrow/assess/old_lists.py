"""Lists of entries on the old site: how long each was, so that its further pages are known."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from datetime import datetime

from msgspec import Struct

from newburrow.dialects.schema import Addresses
from newburrow.model.term import Term

Day = tuple[str, str, str]  # year, month, day as they are written in addresses
DATES = ("year", "month", "day")


def day_of(local: datetime) -> Day:
    """Year, month and day as they are in addresses, of a date in the zone of the site."""
    return f"{local.year:04}", f"{local.month:02}", f"{local.day:02}"


class ListMembership(Struct, array_like=True):
    """What an entry was listed under on the old site."""

    authors: tuple[str, ...]  # keys
    terms: tuple[str, ...]  # keys
    day: Day | None


class Lists:
    """What was listed by date, author and term; all of them are few beside the entries."""

    def __init__(self) -> None:
        self.days: Counter[Day] = Counter()
        self.moved: set[Day] = set()  # of which something moves
        self.authors: Counter[str] = Counter()  # by key
        self.terms: Counter[str] = Counter()
        self.all = 0

    def take(self, entry: ListMembership, moves: bool) -> None:
        """Count an entry as it was on the old site."""
        self.all += 1
        self.authors.update(set(entry.authors))
        self.terms.update(set(entry.terms))
        if entry.day:
            self.days[entry.day] += 1
            if moves:
                self.moved.add(entry.day)

    def of_terms(self, terms: Iterable[Term]) -> Counter[str]:
        """How many entries were listed under each term, those of its descendants included."""
        parents = {term.key: term.parent for term in terms}
        found = Counter(self.terms)
        for key, count in self.terms.items():
            seen, at = {key}, parents.get(key, "")
            while at and at not in seen:
                seen.add(at)
                found[at] += count
                at = parents.get(at, "")
        return found

    def dates(self, names: tuple[str, ...]) -> Iterator[tuple[dict[str, str], int, bool]]:
        """The dates that differ in these variables: their values, how many entries, and whether any of them moves."""
        places = [place for place, name in enumerate(DATES) if name in names]
        found: dict[tuple[str, ...], list[int]] = {}
        for day, count in self.days.items():
            row = found.setdefault(tuple(day[place] for place in places), [0, 0])
            row[0] += count
            row[1] += day in self.moved
        for values, (count, moved) in sorted(found.items()):
            yield (
                {DATES[place]: value for place, value in zip(places, values, strict=True)},
                count,
                moved > 0,
            )


def pages(count: int, lists: Addresses) -> range:
    """The numbers of the further pages of a list with `count` posts.

    Counted from 2, by the dialect's `per_page`. Empty if the dialect does not say how many posts are on a
    page or where further pages are.
    """
    if lists.further and lists.per_page > 0:
        return range(2, -(-count // lists.per_page) + 1)
    return range(0)
