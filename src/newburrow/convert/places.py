"""Planning: where each entry goes on the new host, collisions solved in the same way every time."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import UTC, datetime

from msgspec.structs import replace

from newburrow import address
from newburrow.convert import choose, slugs
from newburrow.convert.context import Context
from newburrow.events import Event, Listener
from newburrow.journal import Fate, Place, Settled
from newburrow.model import Entry
from newburrow.problem import Problem, Severity
from newburrow.scope import bare


def settle_entry(entry: Entry, fate: Fate, reason: str = "", new: str = "") -> Settled:
    """The ledger's row for an entry."""
    return Settled("entry", entry.key, entry.kind, fate, reason, entry.title or entry.slug, entry.permalink, new)


@dataclass
class Planned:
    """What entries that move have between them."""

    authors: set[str] = field(default_factory=set)  # keys
    terms: set[str] = field(default_factory=set)  # keys
    newest: datetime | None = None  # when a published one was last changed, UTC


def plan(context: Context, listener: Listener) -> Planned:
    """Give every entry that moves its new address, and settle those that stay behind."""
    planned = Planned()
    total = context.store.count(Entry)
    for seq, entry in context.store.numbered(Entry):
        decided = context.decided(entry, count=True)
        new = _place(seq, decided, entry.kind, context)
        if new:
            _note(decided, planned)
        if seq % 500 == 0 or seq == total:
            listener(Event("Planning", seq, total))
    for problem in context.rules.problems():
        context.journal.follow_up(problem)
    _part(context)
    _limit(context)
    return planned


def _note(entry: Entry, planned: Planned) -> None:
    planned.authors.update(entry.authors)
    planned.terms.update(entry.terms)
    moment = entry.updated or entry.published
    if entry.status == "published" and moment and (planned.newest is None or moment > planned.newest):
        planned.newest = moment.astimezone(UTC)


def _place(seq: int, entry: Entry, was: str, context: Context) -> str:
    """The new address of one entry, written into the journal; empty for one that stays behind.

    `was` is the kind that it was read as, under which it is accounted for.
    """
    reason, kind = choose.reason_to_leave(entry, context), context.host.kind_for(entry.kind)
    failed = "" if kind or reason else f"{context.host.title or context.host.name} has no kind for a {entry.kind}"
    new = "" if reason or failed else new_address(entry, kind, context)
    if not new:
        fate = Fate.LEFT_OUT if reason else Fate.FAILED
        context.journal.settle(settle_entry(replace(entry, kind=was), fate, reason or failed))
    if failed:
        context.journal.follow_up(
            Problem(
                Severity.ERROR,
                "no-kind",
                failed + ".",
                f"Add {entry.kind!r} to `takes` of a kind in the host profile, "
                "or take it out of choose.kinds in move.toml.",
                entry.source,
                "entry",
                entry.key,
            )
        )
    moment = entry.published or entry.updated
    context.journal.place(
        Place(
            seq,
            entry.key,
            kind,
            entry.permalink,
            "\n".join(entry.addresses),
            new,
            address.key(new),
            new,
            entry.status == "published",
            address.full_path(entry.body.base),
            "\n".join(entry.feeds),
        ),
        at=format(moment.timestamp(), "020.6f") if moment else "",
    )
    return new


def new_address(entry: Entry, kind: str, context: Context) -> str:
    """The address that the host's pattern gives an entry, before collisions are solved."""
    pattern = context.decisions.addresses.get(kind) or context.host.kinds[kind].address
    moment = entry.published or entry.updated
    local = context.local(moment) if moment else None
    values = {"slug": new_slug(entry, context), "id": bare(entry.key)}
    if local:
        values |= {"year": f"{local.year:04}", "month": f"{local.month:02}", "day": f"{local.day:02}"}
    elif {"year", "month", "day"} & set(address.variables(pattern)):
        context.journal.follow_up(
            Problem(
                Severity.WARNING,
                "undated",
                "The entry has no date; its address is built without one.",
                "Give it a date in the export or on the new host.",
                entry.source,
                "entry",
                entry.key,
            )
        )
    return address.resolve(context.new.address, address.expand(pattern, values))


def new_slug(entry: Entry, context: Context) -> str:
    """The old slug where the host takes it, else one made of the slug, the title or the key."""
    rules = context.host.slugs
    old = entry.slug or address.last_name(entry.permalink)
    if slugs.accepted(old, rules):
        return old
    sources = (old, entry.title, f"entry-{entry.key}")
    slug = next((made for source in sources if source and (made := slugs.make(source, rules))), "entry")
    had = f"The slug {old!r} cannot stand on the new host" if old else "The entry has no slug"
    context.journal.follow_up(
        Problem(
            Severity.INFO,
            "new-slug",
            f"{had}; it gets {slug!r}.",
            "Nothing to do, unless you want another one: set it in the export.",
            entry.source,
            "entry",
            entry.key,
        )
    )
    return slug


def _part(context: Context) -> None:
    """Where several entries want one address the oldest gets it; the others get -2, -3, ..."""
    for places in context.journal.crowded():
        number = 1
        for place in places[1:]:
            new = place.new
            while context.journal.taken(address.key(new)):
                number += 1
                new = _numbered(place.wished, number)
            context.journal.replace_place(place.key, new, address.key(new))
            context.journal.follow_up(
                Problem(
                    Severity.INFO,
                    "address-taken",
                    f"{place.wished} is already that of an older entry; this one goes to {new}.",
                    "Nothing to do, unless you want another address: change its slug.",
                    object="entry",
                    key=place.key,
                )
            )


def _numbered(wished: str, number: int) -> str:
    """The address with a number after its last name: `/a/b.html` becomes `/a/b-2.html`, `/a/b/` `/a/b-2/`."""
    head, slash, last = wished.rstrip("/").rpartition("/")
    stem, dot, extension = last.partition(".")
    return f"{head}{slash}{stem}-{number}{dot}{extension}" + ("/" if wished.endswith("/") else "")


def _limit(context: Context) -> None:
    """What is above the host's total stays behind: pages go first, then the newest entries."""
    most = context.host.limits.entries
    if most is None or context.journal.count_places() <= most:
        return
    total = context.journal.count_places()
    host = context.host.title or context.host.name
    context.journal.follow_up(
        Problem(
            Severity.ERROR,
            "host-limit",
            f"{host} takes at most {most:,} entries; {total:,} were to move. The {total - most:,} oldest stay behind.",
            "Choose fewer in move.toml, or ask the host for a larger plan.",
        )
    )
    for key in context.journal.beyond(most):
        entry = context.store.get(Entry, key)
        assert entry is not None
        context.journal.replace_place(key, "", "")
        context.journal.settle(settle_entry(entry, Fate.FAILED, f"above the limit of {most:,} entries of {host}"))
