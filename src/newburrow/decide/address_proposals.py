"""Which permalink pattern of the new host keeps most addresses of the old site as they are."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
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


class AddressProposal(Struct, frozen=True):
    """The pattern for one kind of the host."""

    kind: str
    pattern: str
    keeps: int  # entries whose path stays as it is
    entries: int  # of this kind
    usual: str = ""  # the host's first pattern, where that is another
    usual_keeps: int = 0


def proposals(store: Store, host: Profile) -> Iterator[AddressProposal]:
    """The best permalink pattern for each kind; the host's first one unless another keeps more addresses."""
    tried = {name: list(patterns_of(kind, ())) for name, kind in host.kinds.items()}
    if any("*" in kind.also for kind in host.kinds.values()):
        own = list(own_patterns(store))
        tried = {name: list(patterns_of(kind, own)) for name, kind in host.kinds.items()}
    unchanged, collisions = Counter[tuple[str, str]](), Counter[tuple[str, str]]()
    entries, seen = Counter[str](), SeenKeys()
    if any(len(patterns) > 1 for patterns in tried.values()):
        local_of = _local_dates(store)
        for entry in store.all(Entry):
            name, local = host.kind_for(entry.kind), local_of(entry)
            entries[name] += 1
            above = slugs_above(entry, store, store.site().front_page) if entry.parent else ""
            for pattern in tried.get(name, ()):
                path = path_by(pattern, entry, local, above, store)
                unchanged[name, pattern] += bool(path) and has_path(entry, path)
                collisions[name, pattern] += bool(path) and seen.may_have(
                    f"{name} {pattern} {path}"
                )
    for name, patterns in tried.items():
        # One by which more entries want one address is none the better for what it keeps.
        most = collisions[name, patterns[0]]
        fitting = [pattern for pattern in patterns if collisions[name, pattern] <= most]
        best = max(
            fitting, key=lambda pattern: (unchanged[name, pattern], -patterns.index(pattern))
        )
        if best != patterns[0]:
            usual = patterns[0]
        else:
            usual = ""
        yield AddressProposal(
            name, best, unchanged[name, best], entries[name], usual, unchanged[name, usual]
        )


def patterns_of(kind: Kind, own: Iterable[str], decided: str = "") -> Iterator[str]:
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


def own_patterns(store: Store) -> Iterator[str]:
    """The permalink patterns that are most frequent on the old site, of those that tell entries apart."""
    front, local_of = store.site().front_page, _local_dates(store)
    counts = Counter(
        pattern
        for entry in islice(store.all(Entry), _LOOKED_AT)
        if (
            pattern := pattern_of(
                entry, local_of(entry), slugs_above(entry, store, front), store
            )
        )
        and _tells_apart(pattern)
    )
    yield from (pattern for pattern, _count in counts.most_common(_OWN))


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
        return entry.published.astimezone(zone) if entry.published and zone else entry.published

    return local
