"""The address advisor: what each permalink pattern that the new host can have would come to."""

from __future__ import annotations

import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from newburrow import address, gathering, holding, moving
from newburrow.assess.permalinks import pattern_of
from newburrow.convert import run
from newburrow.convert.context import Context
from newburrow.convert.decisions import Decisions
from newburrow.events import Listener, nobody
from newburrow.filling import filled_store
from newburrow.folder import STORE, MoveFolder
from newburrow.hosts import loader as hosts
from newburrow.hosts.mistakes import ENTRY_VARIABLES
from newburrow.hosts.profile import Profile
from newburrow.journal import GONE, REDIRECTED, UNCHANGED, Journal
from newburrow.model import Entry
from newburrow.redirects.map import Map

_LOOKED_AT = 2000  # entries, whose own patterns are tried where a host can have any
_OWN = 3  # of these patterns, the most frequent


class Advice(Struct, frozen=True):
    """What one pattern for one kind would come to, all else as it is decided."""

    kind: str
    pattern: str
    chosen: bool  # whether it is the one in move.toml
    unchanged: int  # old addresses
    redirected: int
    gone: int
    rules: int
    one_by_one: int  # addresses that no rule covers
    collisions: int  # entries that get a number, since an older one has their address


class Advised(Struct, frozen=True):
    """The patterns, the best of each kind first, and what is to be said of ids."""

    patterns: list[Advice]
    ids: str


def advise(folder: MoveFolder, listener: Listener = nobody) -> Advised:
    """Plan the move once with each pattern. Nothing is written but the content store."""
    decisions = folder.decisions()
    host = hosts.load(folder.name_or_path(decisions.new.host))
    exports = gathering.examine_all(
        [folder.path / path for path in decisions.old.paths], folder.name_or_path(decisions.old.dialect)
    )
    folder.claim(STORE)
    with filled_store(folder.path / STORE, exports, listener) as store:
        found: list[Advice] = []
        with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
            for kind, pattern in _candidates(host, decisions, list(_own_patterns(store.all(Entry)))):
                tried = replace(decisions, addresses={**decisions.addresses, kind: pattern})
                with Journal(Path(name) / "journal") as journal:
                    context = moving.context_of(folder, tried, host, store, journal, exports)
                    holding.learn([folder.path / path for path in tried.new.holds], journal, listener)
                    run.plan(context, listener)
                    if kind in journal.count_kinds():
                        chosen = pattern == (decisions.addresses.get(kind) or host.kinds[kind].address)
                        found.append(_advice(kind, pattern, chosen, context))
        ids = _ids(store.all(Entry), host)
    found.sort(key=lambda one: (one.kind, one.redirected, one.rules + one.one_by_one, one.collisions, not one.chosen))
    return Advised(found, ids)


def _candidates(host: Profile, decisions: Decisions, own: list[str]) -> Iterator[tuple[str, str]]:
    """Kinds with the patterns that they can have."""
    for name, kind in host.kinds.items():
        listed = [decisions.addresses.get(name, ""), kind.address, *(one for one in kind.also if one != "*")]
        for pattern in dict.fromkeys(filter(None, (*listed, *(own if "*" in kind.also else ())))):
            yield name, pattern


def _own_patterns(entries: Iterator[Entry]) -> Iterator[str]:
    """The patterns that the old site has most."""
    counts = Counter(
        pattern for _number, entry in zip(range(_LOOKED_AT), entries, strict=False)
        if (pattern := pattern_of(entry, entry.published)) and set(address.variables(pattern)) <= set(ENTRY_VARIABLES)
    )  # fmt: skip
    yield from (pattern for pattern, _count in counts.most_common(_OWN) if "{" in pattern)


def _advice(kind: str, pattern: str, chosen: bool, context: Context) -> Advice:
    counts = context.journal.count_addresses()
    redirects = Map.learnt(context.journal.addresses)
    exact = sum(1 for row in redirects.exact() if row.status == REDIRECTED)
    return Advice(
        kind, pattern, chosen, counts.get(UNCHANGED, 0), counts.get(REDIRECTED, 0), counts.get(GONE, 0),
        len(redirects.rules), exact, context.journal.count_code("address-taken"),
    )  # fmt: skip


def _ids(entries: Iterator[Entry], host: Profile) -> str:
    """Whether old addresses hold ids, and what the host does with these."""
    found = next((one for entry in entries for one in (entry.permalink, *entry.addresses) if "?" in one), "")
    if not found:
        return "No old address holds an id."
    kept = {
        "any": "keeps ids that are free", "numbers": "keeps ids that are free numbers", "none": "gives ids of its own",
    }[host.ids.keep]  # fmt: skip
    return f"Old addresses hold ids, such as {found}. The new host {kept}."
