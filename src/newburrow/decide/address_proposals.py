"""The permalink patterns that each kind of the new host can have, in the order in which they suit the old site.

The draft takes the first of each kind, and the advisor shows them in this order where no visits are known.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping
from datetime import datetime
from itertools import islice

from msgspec import Struct

from newburrow.assess.permalinks import has_path, path_by, pattern_of, slugs_above
from newburrow.core import url_pattern
from newburrow.core.dates import zone_named
from newburrow.hosts.profile import Kind, Profile
from newburrow.hosts.profile_mistakes import ENTRY_VARIABLES
from newburrow.model import Entry
from newburrow.store.content_store import Store
from newburrow.store.redirects.seen_keys import SeenKeys

_OF_ENTRY = ("slug", "path", "id")  # variables that tell entries apart
_LITERAL = re.compile(r"\{[^}]*\}|[^A-Za-z0-9]+")
_LOOKED_AT = 2000  # entries, whose own patterns are tried where a host can have any
_OWN = 3  # of these patterns, the most frequent
_FEW = 4  # entries


class AddressProposal(Struct, frozen=True):
    """The pattern for one kind of the host."""

    kind: str
    pattern: str
    keeps: int  # entries whose path stays as it is
    entries: int  # of this kind
    usual: str = ""  # the host's first pattern, where that is another
    usual_keeps: int = 0


class RankedPattern(Struct, frozen=True):
    """How one pattern of a kind suits the entries that become it."""

    pattern: str
    keeps: int  # entries whose path stays as it is
    collisions: int  # entries whose path another one has


def proposals(store: Store, host: Profile) -> Iterator[AddressProposal]:
    """The best permalink pattern for each kind; the host's first one unless another suits the old site better."""
    for name, (entries, patterns) in ranked(store, host, {}).items():
        best, usual = patterns[0], host.kinds[name].address
        if best.pattern == usual:
            yield AddressProposal(name, usual, best.keeps, entries)
            continue
        usual_keeps = next(rank.keeps for rank in patterns if rank.pattern == usual)
        yield AddressProposal(name, best.pattern, best.keeps, entries, usual, usual_keeps)


def ranked(
    store: Store, host: Profile, decided: Mapping[str, str]
) -> dict[str, tuple[int, list[RankedPattern]]]:
    """By kind of the host, how many entries become it, and its patterns, the best first.

    The best keeps most paths; of several such the decided one comes first, then as the host lists them. One by which
    more entries want the same address than by the host's usual pattern comes last. `decided` has the pattern in
    `move.toml` by kind.
    """
    takes_own = any("*" in kind.also for kind in host.kinds.values())
    own = list(_own_patterns(store)) if takes_own else []
    tried = {
        name: list(_patterns_of(kind, own, decided.get(name, "")))
        for name, kind in host.kinds.items()
    }
    counts = _PatternCounts(tried)
    if any(len(patterns) > 1 for patterns in tried.values()):
        local_of, front = _local_dates(store), store.site().front_page
        for entry in store.all(Entry):
            name = host.kind_for(entry.kind)
            above = slugs_above(entry, store, front) if entry.parent else ""
            counts.add(name, entry, (local_of(entry), above, store))
    return {
        name: (counts.entries[name], counts.sorted(name, host.kinds[name].address))
        for name in tried
    }


class _PatternCounts:
    """What is counted of each pattern while the entries pass."""

    def __init__(self, tried: Mapping[str, list[str]]) -> None:
        self._tried = tried
        self.entries = Counter[str]()
        self._keeps = Counter[tuple[str, str]]()
        self._collisions = Counter[tuple[str, str]]()
        self._seen = SeenKeys()

    def add(self, name: str, entry: Entry, around: tuple[datetime | None, str, Store]) -> None:
        """Count an entry that becomes a kind; `around` has its date on the site, the slugs above it, and the store."""
        self.entries[name] += 1
        if len(self._tried.get(name, ())) < 2:
            return
        for pattern in self._tried[name]:
            path = path_by(pattern, entry, *around)
            self._keeps[name, pattern] += bool(path) and has_path(entry, path)
            self._collisions[name, pattern] += bool(path) and self._seen.may_have(
                f"{name} {pattern} {path}"
            )

    def sorted(self, name: str, usual: str) -> list[RankedPattern]:
        """The patterns of a kind, the best first; `usual` is the host's own."""
        most = self._collisions[name, usual]
        found = [
            RankedPattern(
                pattern,
                self._keeps[name, pattern],
                self._collisions[name, pattern],
            )
            for pattern in self._tried[name]
        ]
        return sorted(found, key=lambda rank: (rank.collisions > most, -rank.keeps))


def _patterns_of(kind: Kind, own: Iterable[str], decided: str = "") -> Iterator[str]:
    """The permalink patterns that a kind can have on the new host, the decided one first.

    `own` are the patterns that the old site used; they are offered only if the host accepts any pattern for
    the kind. `decided` is the pattern of `move.toml`, if there is one. Each is given once.
    """
    listed = [
        decided,
        kind.address,
        *(pattern for pattern in kind.also if pattern != "*"),
        *(own if "*" in kind.also else ()),
    ]
    yield from dict.fromkeys(filter(None, listed))


def _own_patterns(store: Store) -> Iterator[str]:
    """The permalink patterns that are most frequent on the old site, of those that tell entries apart."""
    front, local_of = store.site().front_page, _local_dates(store)
    counts = Counter(
        pattern_of(entry, local_of(entry), slugs_above(entry, store, front), store)
        for entry in islice(store.all(Entry), _LOOKED_AT)
    )
    found = [pattern for pattern in counts if pattern and _tells_apart(pattern)]
    found.sort(key=lambda pattern: -counts[pattern])
    # a pattern of one entry alone suits the others by chance
    least = 2 if counts.total() > _FEW else 1
    yield from [pattern for pattern in found if counts[pattern] >= least][:_OWN]


def _tells_apart(pattern: str) -> bool:
    """Whether each entry can have an address by a pattern: it has a name or an id, and no number of one entry alone."""
    names = set(url_pattern.variables(pattern))
    words = _LITERAL.split(pattern)
    return (
        names <= set(ENTRY_VARIABLES)
        and not names.isdisjoint(_OF_ENTRY)
        and not any(word.isdigit() for word in words)
    )


def _local_dates(store: Store) -> Callable[[Entry], datetime | None]:
    """What gives the date of publication of an entry as the old site shows it."""
    zone = zone_named(store.site().zone) if store.site().zone else None

    def local(entry: Entry) -> datetime | None:
        if entry.published and zone:
            return entry.published.astimezone(zone)
        return entry.published

    return local
