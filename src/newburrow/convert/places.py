"""Planning: where each entry goes on the new host, collisions solved in the same way every time."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import UTC, datetime
from urllib.parse import quote, unquote

from msgspec.structs import replace

from newburrow import address
from newburrow.convert import choose, dates, held, slugs, termpages
from newburrow.convert.context import Context
from newburrow.convert.lists import DATES, Lists
from newburrow.events import Event, Listener
from newburrow.hosts.profile import Slugs
from newburrow.model import Entry
from newburrow.problem import Problem, Severity
from newburrow.rows import Fate, Place, Settled


def settle_entry(entry: Entry, fate: Fate, reason: str = "", new: str = "") -> Settled:
    """The ledger's row for an entry."""
    return Settled("entry", entry.key, entry.kind, fate, reason, entry.title or entry.slug, entry.permalink, new)


@dataclass
class Planned:
    """What entries that move have between them."""

    authors: set[str] = field(default_factory=set)  # keys
    terms: set[str] = field(default_factory=set)  # keys
    lists: Lists = field(default_factory=Lists)  # of the old site
    newest: datetime | None = None  # when a published one was last changed, UTC


def plan(context: Context, listener: Listener) -> Planned:
    """Give every entry that moves its new address, and settle those that stay behind."""
    planned = Planned()
    total = last = context.store.count(Entry)
    if context.decisions.choose.parents == "move":
        choose.find_parents(context)
    waiting: list[tuple[Place, str]] = []
    for done, (last, entry) in enumerate(context.store.numbered(Entry), 1):
        decided = context.decided(entry, count=True)
        waiting.append(_place(last, decided, entry.kind, context))
        new = waiting[-1][0].new
        if new:
            _note(decided, planned)
        planned.lists.take(entry, context.day(entry.published), bool(new))
        if done % 500 == 0 or done == total:
            context.journal.place(*waiting)
            waiting.clear()
            listener(Event("Planning", done, total))
    context.journal.placed()
    for problem in context.rules.problems():
        context.journal.follow_up(problem)
    termpages.place(context, planned.terms, last)
    _part(context)
    _limit(context)
    return planned


def _note(entry: Entry, planned: Planned) -> None:
    planned.authors.update(entry.authors)
    planned.terms.update(entry.terms)
    moment = entry.updated or entry.published
    if entry.status == "published" and moment and (planned.newest is None or moment > planned.newest):
        planned.newest = moment.astimezone(UTC)


def _place(seq: int, entry: Entry, was: str, context: Context) -> tuple[Place, str]:
    """Where one entry goes, and when it was published, as that is compared; one that stays behind is settled.

    `was` is the kind that it was read as, under which it is accounted for.
    """
    reason, kind = choose.reason_to_leave(entry, context), context.kind_for(entry.kind)
    failed = "" if kind or reason else f"{context.host.title or context.host.name} has no kind for a {entry.kind}"
    slug = "" if reason or failed else new_slug(entry, context)
    new = new_address(entry, kind, slug, context) if slug else ""
    if not new:
        fate = Fate.LEFT_OUT if reason else Fate.FAILED
        context.journal.settle(settle_entry(replace(entry, kind=was), fate, reason or failed))
    if failed:
        context.journal.follow_up(_no_kind(entry, failed))
    there = held.same_entry(entry, new, context) if new else None
    if there:
        wished = new = there.address or new
        if there.id and context.has_ids:
            context.journal.keep_id("entry", entry.key, there.id)
    else:
        wished, new = new, _beside_others(entry, kind, slug, new, context)
    moment = entry.published or entry.updated
    place = Place(
        seq,
        entry.key,
        kind,
        entry.permalink,
        "\n".join(entry.addresses),
        new,
        address.key(new),
        wished,
        entry.status == "published",
        address.full_path(entry.body.base),
        "\n".join(entry.feeds),
        there is not None and context.decisions.new.already_there == "skip",
    )
    return place, format(moment.timestamp(), "020.6f") if moment else ""


def _no_kind(entry: Entry, failed: str) -> Problem:
    return Problem(
        Severity.ERROR,
        "no-kind",
        failed + ".",
        f"Say in [kinds] of move.toml what a {entry.kind} becomes, or take it out of choose.kinds.",
        entry.source,
        "entry",
        entry.key,
    )


def _beside_others(entry: Entry, kind: str, slug: str, new: str, context: Context) -> str:
    """The address of an entry that the new host has not yet, where nothing of the host's own stands."""
    if not new:
        return ""
    number, wanted = 1, new
    other = slug
    while held.is_taken(new, other, context):
        number += 1
        other = slugs.numbered(slug, number, context.host.slugs)
        new = new_address(entry, kind, other, context)
    if number > 1:
        message = f"The new host has another entry at {wanted}, or of its slug; this one goes to {new}."
        advice = "Nothing to do, unless you want another address: change its slug."
        problem = Problem(Severity.INFO, "address-held", message, advice, entry.source, "entry", entry.key)
        context.journal.follow_up(problem)
    held.say_same_title(entry, context)
    return new


def new_address(entry: Entry, kind: str, slug: str, context: Context) -> str:
    """The address that the host's pattern gives an entry of this slug, before collisions are solved."""
    pattern = context.decisions.addresses.get(kind) or context.host.kinds[kind].address
    day = context.day(dates.moved(entry.published or entry.updated, context))
    values = {"slug": slug, "id": context.new_id("entry", entry.key)}
    if day:
        values |= zip(DATES, day, strict=True)
    elif set(DATES) & set(address.variables(pattern)):
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
            while context.journal.taken(address.key(new)) or context.journal.is_held("entry", address.key(new)):
                number += 1
                new = _numbered(place.wished, number, context.host.slugs)
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


def _numbered(wished: str, number: int, rules: Slugs) -> str:
    """The address with a number after its last name: `/a/b.html` becomes `/a/b-2.html`, `/a/b/` `/a/b-2/`."""
    head, slash, last = wished.rstrip("/").rpartition("/")
    stem, dot, extension = last.partition(".")
    stem = quote(slugs.numbered(unquote(stem), number, rules), safe="~-._")
    return f"{head}{slash}{stem}{dot}{extension}" + ("/" if wished.endswith("/") else "")


def _limit(context: Context) -> None:
    """What is above the host's total stays behind: pages go first, then the newest entries."""
    most, total = context.host.limits.entries, context.journal.count_places()
    if most is None:
        return
    there = context.journal.count_held("entry")
    most = max(most - there, 0)
    if total <= most:
        return
    host = context.host.title or context.host.name
    and_has = f" and has {there:,} already" if there else ""
    context.journal.follow_up(
        Problem(
            Severity.ERROR,
            "host-limit",
            f"{host} takes at most {context.host.limits.entries:,} entries{and_has}; {total:,} were to move. "
            f"The {total - most:,} oldest stay behind.",
            "Choose fewer in move.toml, or ask the host for a larger plan.",
        )
    )
    for key in context.journal.beyond(most):
        entry = context.store.get(Entry, key)
        context.journal.replace_place(key, "", "")
        if entry is not None:  # none is the page of a term
            reason = f"above the limit of {context.host.limits.entries:,} entries of {host}"
            context.journal.settle(settle_entry(entry, Fate.FAILED, reason))
