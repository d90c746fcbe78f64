"""A sample of the addresses of one old site: rules are looked for in it, and tried on it."""

from __future__ import annotations

import zlib
from heapq import heappush, heapreplace

from newburrow.store.journal.rows import REDIRECTED, OldAddress

_FAMILIES = 1000  # of addresses that look alike
_SAMPLE = 60  # answers of each family that are searched for candidates
_ALL = 50_000  # addresses of which each is put into its family
_TRIED = 20_000  # addresses of a site on which candidates are tried

Sample = tuple[str, str, int]  # subject, new address, and how many redirects it represents


class SiteSample:
    """What is kept of the addresses of one site: some of each family, and some of all."""

    def __init__(self) -> None:
        self.families = _Families()
        self.count = 0
        self._tried: list[tuple[int, int, OldAddress]] = []

    def take(self, row: OldAddress, subject: str) -> None:
        """Look at the answer for a path, or a path with a query."""
        self.count += 1
        rank = -zlib.crc32(subject.encode("utf-8", "replace"))
        # Of very many some are enough.
        if (
            row.status == REDIRECTED
            and "&" not in subject
            and (self.count < _ALL or not rank & 7)
        ):
            self.families.take(subject, row.new, rank)
        if len(self._tried) < _TRIED:
            heappush(self._tried, (rank, self.count, row))
        elif rank > self._tried[0][0]:
            heapreplace(self._tried, (rank, self.count, row))

    def tried(self) -> list[OldAddress]:
        """The addresses on which candidates are tried."""
        return [row for _rank, _number, row in self._tried]


class _Families:
    """Some redirects of each family of addresses, and how many each represents.

    Families are formed by what is easy to see, so that small ones are not missed; of a family the sample is
    a number made of the address is the least, since what comes one after the other is alike.
    """

    def __init__(self) -> None:
        self._found: dict[
            tuple[str | int, ...], tuple[list[int], list[tuple[int, str, str]]]
        ] = {}

    def take(self, path: str, new: str, rank: int) -> None:
        """Look at a redirect; `rank` is the number made of its path."""
        family = _family(path, new)
        if family not in self._found and len(self._found) >= _FAMILIES:
            family = family[2:]  # without the words
        total, taken = self._found.setdefault(family, ([0], []))
        total[0] += 1
        if len(taken) < _SAMPLE:
            heappush(taken, (rank, path, new))
        elif rank >= taken[0][0] and (rank, path, new) > taken[0]:
            heapreplace(taken, (rank, path, new))

    def sample(self) -> list[Sample]:
        """Those that were taken."""
        return [
            (path, new, max(1, total // len(taken)))
            for [total], taken in self._found.values()
            for _number, path, new in sorted(taken)
        ]


def _family(path: str, new: str) -> tuple[str | int, ...]:
    """What is plain to see of an old and a new address: first words, the new host, numbers of parts, extensions."""
    host, _slash, new_path = new.partition("://")[2].partition("/")
    path, _mark, query = path.partition("?")
    if query:  # the name of the parameter tells most
        path = f"{path}?{query.partition('=')[0]}/"
    old_word, *old = _plain(path)
    new_word, *others = _plain(new_path)
    return (old_word, new_word, host, *old, *others)


def _plain(path: str) -> tuple[str | int, ...]:
    parts = path.strip("/").split("/")
    first, last = parts[0], parts[-1]
    dot = last.rfind(".", -6)
    return (
        first if len(parts) > 1 and not first.isdigit() else "",
        len(parts),
        last[dot:] if dot > 0 else "",
    )
