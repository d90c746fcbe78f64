"""Terms that look like one: written in other letters, with a slip, or with a space too many."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Iterator

NEAR = 88.0  # per cent of likeness
_SHORTEST = 5  # letters; shorter words that differ by one letter mean different things
_MOST = 5000  # terms compared each with each


def alike(names: Iterable[str]) -> Iterator[tuple[str, str]]:
    """Pairs of different names that are probably the same, each pair once, in the order of the names."""
    first: dict[str, str] = {}
    for name in dict.fromkeys(names):
        key = _folded(name)
        if key in first:
            yield first[key], name
        else:
            first[key] = name
    keys = [key for key in first if len(key) >= _SHORTEST][:_MOST]
    if len(keys) < 2:
        return
    from rapidfuzz import fuzz, process  # heavy: imported where it is used

    for place, key in enumerate(keys):
        for near, _score, _index in process.extract(
            key, keys[place + 1 :], scorer=fuzz.ratio, score_cutoff=NEAR, limit=5
        ):
            if not _differ_in_number(key, near):
                yield first[key], first[near]


def _folded(name: str) -> str:
    """A name without letter case, accents, and what separates words."""
    bare = unicodedata.normalize("NFKD", name.casefold())
    return "".join(c for c in bare if c.isalnum())


def _differ_in_number(name: str, other: str) -> bool:
    """Whether two names differ in their digits: 2021 and 2022 are not one."""
    return [c for c in name if c.isdigit()] != [c for c in other if c.isdigit()]
