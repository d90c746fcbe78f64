"""Planning: where each entry goes on the new host, collisions solved in the same way every time."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from urllib.parse import quote, unquote

from msgspec.structs import replace

from newburrow.assess.old_lists import Lists
from newburrow.convert import choice, pool
from newburrow.convert.context import Context
from newburrow.convert.plan import term_pages
from newburrow.convert.plan.entry_place import Placed, place, settle_entry
from newburrow.core import url
from newburrow.core.problem import NOWHERE, Problem
from newburrow.core.progress import Event, Listener
from newburrow.hosts import slugs
from newburrow.hosts.profile import Slugs
from newburrow.model import Entry
from newburrow.store.journal.reader import JournalNotes
from newburrow.store.journal.rows import Fate, Place


@dataclass
class Planned:
    """What entries that move have between them."""

    authors: set[str] = field(default_factory=set)  # keys
    terms: set[str] = field(default_factory=set)  # keys
    lists: Lists = field(default_factory=Lists)  # of the old site
    newest: datetime | None = None  # when the newest published entry was changed, UTC


def plan(context: Context, listener: Listener, processes: int = 1) -> Planned:
    """Give every entry that moves its new address, and settle those that are left out.

    Works by date, so that of entries that want one address the oldest gets it. Entries are placed by a
    pool of processes and written down in order by this one.
    """
    planned, waiting = Planned(), list[Placed]()
    total = last = context.store.count(Entry)
    if context.decisions.choose.parents == "move":
        choice.find_parents(context)
    for done, placed_entry in enumerate(pool.each(context, place, Placed, processes), 1):
        _note(placed_entry, planned, context)
        waiting.append(placed_entry)
        if done % 500 == 0 or done == total:
            last = placed_entry.place.seq
            _write(waiting, context)
            waiting.clear()
            listener(Event("Planning", done, total))
    context.planning.plan.index()
    for problem in context.rules.problems():
        context.journal.follow_ups.add(problem)
    term_pages.place(context, planned.terms, last)
    _part(context)
    _limit(context)
    return planned


def _note(placed: Placed, planned: Planned, context: Context) -> None:
    """Keep what the plan has to know of an entry."""
    context.rules.count(placed.touched, placed.words)
    planned.authors.update(placed.authors)
    planned.terms.update(placed.terms)
    if placed.changed and (planned.newest is None or placed.changed > planned.newest):
        planned.newest = placed.changed
    if placed.listed:
        planned.lists.take(placed.listed, bool(placed.place.new))


def _write(placed: list[Placed], context: Context) -> None:
    """Write down where entries go. What is looked up meanwhile is not where this is written."""
    context.planning.plan.add(
        *((placed_entry.place, placed_entry.at) for placed_entry in placed)
    )
    noted = JournalNotes()
    for placed_entry in placed:
        noted.add(placed_entry.notes)
        if placed_entry.id:
            context.planning.ids.add_kept("entry", placed_entry.place.key, placed_entry.id)
    noted.write(context.planning)


def _part(context: Context) -> None:
    """Where several entries want one address, the one that had it keeps it, else the oldest; others get -2, -3, ..."""
    for places in context.planning.plan.collisions():
        places.sort(key=_moves)
        for other in places[1:]:
            _move_aside(other, context)
    _spare_old_pages(context)


def _moves(place: Place) -> bool:
    """Whether an entry gets another address than it had."""
    return url.key(place.old) != place.new_key


def _spare_old_pages(context: Context) -> None:
    """No entry takes over the old address of another one: its readers would find the wrong page there."""
    site = url.site_key(context.new.address)
    for key, old, _others, _new, new_key, _file, _public in context.planning.plan.claims():
        old_key = url.key(old)
        if old_key == new_key or old_key.partition("/")[0] != site:
            continue
        taker = context.planning.plan.get(context.journal.plan.key_at(old_key))
        if taker and taker.key != key and _moves(taker) and not taker.existing:
            _move_aside(taker, context)


def _move_aside(place: Place, context: Context) -> None:
    """Give an entry the next free address like the one that it wants."""
    number, new = 1, place.new
    while context.journal.plan.key_at(url.key(new)) or context.journal.existing.has(
        "entry", url.key(new)
    ):
        number += 1
        new = _numbered(place.wished, number, context.host.slugs)
    context.planning.plan.change(place.key, new, url.key(new))
    problem = Problem.at(NOWHERE, "address-taken", wanted=place.wished, new=new)
    context.journal.follow_ups.add(replace(problem, object="entry", key=place.key))


def _numbered(wished: str, number: int, rules: Slugs) -> str:
    """The address with a number after its last name: `/a/b.html` becomes `/a/b-2.html`, `/a/b/` `/a/b-2/`."""
    head, slash, last = wished.rstrip("/").rpartition("/")
    stem, dot, extension = last.partition(".")
    stem = quote(slugs.numbered(unquote(stem), number, rules), safe="~-._")
    return f"{head}{slash}{stem}{dot}{extension}" + ("/" if wished.endswith("/") else "")


def _limit(context: Context) -> None:
    """Leave out what exceeds the limit of the host on entries: pages are kept first, then the newest entries."""
    most, total = context.host.limits.entries, context.planning.plan.count()
    if most is None:
        return
    already_there = context.journal.existing.count("entry")
    most = max(most - already_there, 0)
    if total <= most:
        return
    host = context.host.title or context.host.name
    if already_there:
        and_has = f" and has {already_there:,} already"
    else:
        and_has = ""
    context.journal.follow_ups.add(
        Problem.at(
            NOWHERE,
            "host-limit",
            message=f"{host} accepts at most {context.host.limits.entries:,} entries{and_has}; "
            f"{total:,} were to move. The {total - most:,} oldest are left out.",
        )
    )
    for key in context.planning.plan.beyond(most):
        entry = context.store.get(Entry, key)
        context.planning.plan.change(key, "", "")
        if entry is not None:  # none is the page of a term
            reason = f"above the limit of {context.host.limits.entries:,} entries of {host}"
            context.journal.ledger.add(settle_entry(entry, Fate.FAILED, reason))
