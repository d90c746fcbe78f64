"""When entries were published: from when to when, at which offsets, and where there are gaps."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from datetime import datetime, timedelta, timezone
from itertools import pairwise

_GAP = 3  # months without an entry, on a site that has one in most months
_RARE_GAP = 12  # and on any other


class Calendar:
    """Dates being counted. Months are few, whatever the number of entries."""

    def __init__(self) -> None:
        self.first: datetime | None = None
        self.last: datetime | None = None
        self._offsets: Counter[timedelta | None] = Counter()
        self._months: Counter[int] = Counter()  # months since year 0

    def count(self, moment: datetime | None, planned: bool = False) -> bool:
        """Count the date of one entry. Gives whether it has one.

        `planned` is for an entry that is to be published later: it neither ends nor begins a gap.
        """
        if moment is None:
            return False
        self._offsets[moment.utcoffset()] += 1
        if not planned:
            self._months[moment.year * 12 + moment.month - 1] += 1
        if self.first is None or moment < self.first:
            self.first = moment
        if self.last is None or moment > self.last:
            self.last = moment
        return True

    def join(self, other: Calendar) -> None:
        """Add the dates of another."""
        self._offsets += other._offsets
        self._months += other._months
        self.first = min(filter(None, (self.first, other.first)), default=None)
        self.last = max(filter(None, (self.last, other.last)), default=None)

    @property
    def offsets(self) -> dict[str, int]:
        """How many entries have each offset from UTC, by the offset as written."""
        epoch = datetime(2000, 1, 1)
        found = {
            f"{epoch.replace(tzinfo=timezone(offset or timedelta())):%z}": n
            for offset, n in self._offsets.items()
        }
        return dict(sorted(found.items()))

    def gaps(self) -> Iterator[str]:
        """Spans of months in which nothing was published, in words."""
        months = sorted(self._months)
        if months:
            span = months[-1] - months[0] + 1
        else:
            span = 0
        if len(months) * 2 > span:
            least = _GAP
        else:
            least = _RARE_GAP
        for before, after in pairwise(months):
            if after - before > least:
                yield f"nothing between {_month(before)} and {_month(after)} ({after - before - 1} months)"


def _month(number: int) -> str:
    return f"{number // 12:04}-{number % 12 + 1:02}"
