"""The address advisor: what each permalink pattern that the new host can have would come to."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from newburrow.convert import open_context
from newburrow.convert.context import Context
from newburrow.convert.plan import order
from newburrow.core.progress import Listener, nobody
from newburrow.decide import existing_content
from newburrow.decide.address_proposals import ranked
from newburrow.decide.decisions import Decisions
from newburrow.decide.move_folder import STORE, MoveFolder
from newburrow.formats.exports import several
from newburrow.hosts import loader as hosts
from newburrow.hosts.profile import Profile
from newburrow.model import Entry
from newburrow.redirects.known import learn
from newburrow.redirects.redirect_map import RedirectMaps
from newburrow.store.build import dialects_of, filled_store, opened_export
from newburrow.store.content_store import Store
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED


class PatternCost(Struct, frozen=True):
    """What one pattern for one kind would come to, everything else as it is decided."""

    kind: str
    pattern: str
    chosen: bool  # whether it is the pattern in move.toml
    unchanged: int  # old addresses
    redirected: int
    gone: int
    rules: int
    one_by_one: int  # addresses that no rule covers
    collisions: int  # entries that get a number, since an older one has their address
    # UNCHANGED, REDIRECTED or GONE -> visits to such addresses, where they are known
    visits: dict[int, int] = {}


class PatternAdvice(Struct, frozen=True):
    """The patterns, the best of each kind first, and what to report about ids."""

    patterns: list[PatternCost]
    ids: str


def advise(folder: MoveFolder, listener: Listener = nobody) -> PatternAdvice:
    """Compare the permalink patterns that the new host can have, by planning the move with each.

    Gives the patterns of each kind, the best first: the one that keeps most visits, where they are known, then as
    `decide.address_proposals` orders them. Writes nothing but the content store of the folder. Raises BurrowError
    if the folder is not a move folder or its export cannot be read.
    """
    decisions = folder.decisions()
    host = hosts.load(folder.name_or_path(decisions.new.host))
    exports = several.examine_all(folder.exports(decisions.old))
    folder.claim(STORE)
    with filled_store(folder.path / STORE, exports, listener) as store:
        found: list[PatternCost] = []
        with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
            for kind, pattern in _candidates(store, host, decisions):
                tried = replace(decisions, addresses={**decisions.addresses, kind: pattern})
                with Journal(Path(name) / "journal") as journal:
                    context = open_context.context_of(
                        folder, tried, host, store, journal, dialects_of(exports)
                    )
                    held = [folder.path / path for path in tried.new.holds]
                    existing_content.learn(held, journal, opened_export(listener))
                    order.plan(context, listener)
                    learn.learn(folder, context)
                    if kind in journal.plan.count_kinds():
                        chosen = pattern == (
                            decisions.addresses.get(kind) or host.kinds[kind].address
                        )
                        found.append(_advice(kind, pattern, chosen, context))
        ids = _ids(store.all(Entry), host)
    # Patterns without known visits stay in the order of `ranked`.
    found.sort(key=lambda cost: (cost.kind, cost.visits.get(REDIRECTED, 0)))
    return PatternAdvice(found, ids)


def _candidates(store: Store, host: Profile, decisions: Decisions) -> Iterator[tuple[str, str]]:
    """Kinds with the patterns that they can have, the best of each first."""
    for name, (_entries, patterns) in ranked(store, host, decisions.addresses).items():
        for rank in patterns:
            yield name, rank.pattern


def _advice(kind: str, pattern: str, chosen: bool, context: Context) -> PatternCost:
    counts = context.planning.urls.count()
    maps = RedirectMaps.learnt(context.planning.urls.all).maps
    exact = sum(
        1 for redirects in maps for row in redirects.exact() if row.status == REDIRECTED
    )
    return PatternCost(
        kind,
        pattern,
        chosen,
        counts.get(UNCHANGED, 0),
        counts.get(REDIRECTED, 0),
        counts.get(GONE, 0),
        sum(len(redirects.rules) for redirects in maps),
        exact,
        context.planning.follow_ups.count_code("address-taken"),
        context.planning.urls.count_visits(),
    )


def _ids(entries: Iterator[Entry], host: Profile) -> str:
    """Whether old addresses hold ids, and what the host does with these."""
    found = next(
        (
            address
            for entry in entries
            for address in (entry.permalink, *entry.addresses)
            if "?" in address
        ),
        "",
    )
    if not found:
        return "No old address holds an id."
    id_policy = {
        "any": "keeps ids that are free",
        "numbers": "keeps ids that are free numbers",
        "none": "gives ids of its own",
    }[host.ids.keep]
    return f"Old addresses hold ids, such as {found}. The new host {id_policy}."
