"""Where one entry goes on the new host, and what of it the whole plan has to know."""

from __future__ import annotations

from datetime import UTC, datetime

from msgspec import Struct
from msgspec.structs import replace

from newburrow.assess.old_lists import DATES, Day, ListMembership, day_of
from newburrow.assess.permalinks import id_for, path_of_file
from newburrow.convert import category_page, choice, discussion
from newburrow.convert.context import Context
from newburrow.convert.plan import existing
from newburrow.convert.step import dates
from newburrow.core import url, url_pattern
from newburrow.core.problem import Problem
from newburrow.decide.decisions import AuthorChoice, TermChoice
from newburrow.hosts import slugs
from newburrow.model import Author, Entry, Term
from newburrow.store.journal.reader import JournalNotes, JournalReader
from newburrow.store.journal.rows import Fate, LedgerRow, Place


class Placed(Struct, array_like=True):
    """What was decided of an entry, and what is to be written down of it."""

    place: Place
    at: str  # when it was published, in the form in which dates are compared
    id: str  # its id on the new host; empty if ids do not matter
    notes: JournalNotes
    listed: ListMembership | None  # None for an entry that was in no list of the old site
    touched: list[int]  # rules, by number
    words: list[str]  # for the terms that rules add
    # Of an entry that moves:
    authors: tuple[str, ...] = ()  # keys
    terms: tuple[str, ...] = ()  # keys
    changed: datetime | None = None  # of a published entry, UTC


def place(number: int, read: Entry, context: Context, journal: JournalReader) -> Placed:
    """Decide where one entry goes: its kind, state, slug and new address before collisions.

    The place has no new address if the entry is left out, merged with what the new site has, or has no
    kind there. Writes nothing: fates and follow-ups are notes for the first process.
    """
    ruled = context.rules.changed(read)
    entry = context.edited(read, ruled.entry)
    held, at, id_ = _place(number, entry, read.kind, context)
    category = category_page.category_of(entry, context) if held.existing else None
    if category:  # it is used, even where nothing else is filed under it
        entry = replace(entry, terms=(category.key,))
    listed = None
    if read.kind == "post" and read.status == "published":
        listed = ListMembership(read.authors, read.terms, _day(read.published, context))
    if not held.new:
        return Placed(held, at, id_, journal.take_notes(), listed, ruled.touched, ruled.words)
    if entry.status == "published":
        moment = entry.updated or entry.published
    else:
        moment = None
    if moment:
        changed = moment.astimezone(UTC)
    else:
        changed = None
    return Placed(
        held,
        at,
        id_,
        journal.take_notes(),
        listed,
        ruled.touched,
        ruled.words,
        entry.authors,
        entry.terms,
        changed,
    )


def settle_entry(entry: Entry, fate: Fate, reason: str = "", new: str = "") -> LedgerRow:
    """The ledger's row for an entry."""
    return LedgerRow(
        "entry",
        entry.key,
        entry.kind,
        fate,
        reason,
        entry.title or entry.slug,
        entry.permalink,
        new,
    )


def _place(seq: int, entry: Entry, was: str, context: Context) -> tuple[Place, str, str]:
    """Where one entry goes, when it was published, as that is compared, and the id that the new host has it under.

    One that is left out is settled. `was` is the kind that it was read as, under which it is accounted for.
    """
    reason, kind = choice.reason_to_leave(entry, context), context.kind_for(entry.kind)
    if kind or reason:
        failed = ""
    else:
        failed = f"{context.host.title or context.host.name} has no kind for a {entry.kind}"
    talked_of = None if reason or failed else discussion.subject(entry, context)
    if talked_of and not choice.reason_to_leave(context.decided(talked_of), context):
        kind = context.kind_for(talked_of.kind)
        new = new_address(talked_of, kind, own_slug(talked_of, context), context)
        # it goes where the page is that it talks about, and is not written by itself
        return _placed(seq, entry, kind, (new, new), True), _at(entry), ""
    category = None if reason or failed else category_page.category_of(entry, context)
    if category:
        new = category_page.list_address(category, context)
        return _placed(seq, entry, kind, (new, new), True), _at(entry), ""
    if reason or failed:
        slug = ""
    else:
        slug = new_slug(entry, context)
    if slug:
        new = new_address(entry, kind, slug, context)
    else:
        new = ""
    if not new:
        fate = Fate.LEFT_OUT if reason else Fate.FAILED
        context.journal.ledger.add(
            settle_entry(replace(entry, kind=was), fate, reason or failed)
        )
    if failed:
        context.journal.follow_ups.add(_no_kind(entry, failed))
    if new:
        held = existing.same_entry(entry, new, context)
    else:
        held = None
    if held:
        wished = new = held.address or new
    else:
        wished, new = new, _beside_others(entry, kind, slug, new, context)
    is_there = held is not None and context.decisions.new.already_there == "skip"
    placed = _placed(seq, entry, kind, (new, wished), is_there)
    placed = replace(placed, aside=choice.is_aside(reason))
    return placed, _at(entry), held.id if held and context.has_ids else ""


def _placed(
    seq: int, entry: Entry, kind: str, addresses: tuple[str, str], is_there: bool
) -> Place:
    """The row of the plan; `addresses` are the new one, and the one before collisions are solved."""
    new, wished = addresses
    return Place(
        seq,
        entry.key,
        kind,
        entry.permalink,
        "\n".join(entry.addresses),
        new,
        url.key(new),
        wished,
        entry.status == "published",
        path_of_file(entry),
        "\n".join(entry.feeds),
        is_there,
    )


def _at(entry: Entry) -> str:
    """When an entry was published, in the form in which dates are compared; empty for an undated one."""
    moment = entry.published or entry.updated
    if moment:
        return format(moment.timestamp(), "020.6f")
    return ""


def _no_kind(entry: Entry, failed: str) -> Problem:
    return Problem.about(entry, "no-kind", reason=failed, kind=entry.kind)


def _beside_others(entry: Entry, kind: str, slug: str, new: str, context: Context) -> str:
    """The address of an entry that the new host has not yet, that does not clash with one of the host's own."""
    if not new:
        return ""
    number, wanted = 1, new
    other = slug
    while existing.is_taken(new, other, context):
        number += 1
        other = slugs.numbered(slug, number, context.host.slugs)
        new = new_address(entry, kind, other, context)
    if number > 1:
        problem = Problem.about(entry, "address-held", wanted=wanted, new=new)
        context.journal.follow_ups.add(problem)
    existing.say_same_title(entry, context)
    return new


def new_address(entry: Entry, kind: str, slug: str, context: Context) -> str:
    """The address that the host's pattern for a kind (RFC 6570) gives an entry of this slug.

    Variables without a value are dropped with their slash. Collisions are solved later.
    """
    pattern = context.decisions.addresses.get(kind) or context.host.kinds[kind].address
    day = _day(dates.moved(entry.published or entry.updated, context), context)
    id_ = id_for(pattern, context.new_id("entry", entry.key))
    values = {"slug": slug, "id": id_}
    names = url_pattern.variables(pattern)
    if "path" in names:
        values["path"] = "/".join([*slugs_above(entry, context), slug])
    values |= {name: _AROUND[name](entry, context) for name in names if name in _AROUND}
    if day:
        values |= zip(DATES, day, strict=True)
    elif set(DATES) & set(url_pattern.variables(pattern)):
        context.journal.follow_ups.add(Problem.about(entry, "undated"))
    return url.resolve(context.new.address, url_pattern.expand_names(pattern, values))


def _category(entry: Entry, context: Context) -> str:
    """The slug of the first category of an entry, under the name that it gets."""
    for key in entry.terms:
        term = context.store.get(Term, key)
        choice = context.term_choices.get(key, TermChoice())
        if term and term.vocabulary == "category" and choice.action != "drop":
            return slugs.make(choice.new_name or term.slug or term.name, context.host.slugs)
    return ""


def _author(entry: Entry, context: Context) -> str:
    """The slug of the first author of an entry, under the name that they get."""
    for key in entry.authors:
        author = context.store.get(Author, key)
        if author:
            choice = context.author_choices.get(key, AuthorChoice())
            return slugs.make(
                choice.new_name or author.name or author.login, context.host.slugs
            )
    return ""


def _parent(entry: Entry, context: Context) -> str:
    """The slug of the entry above one."""
    return "".join(slugs_above(entry, context)[-1:])


# What an address can name beside the entry itself.
_AROUND = {"category": _category, "author": _author, "parent": _parent}


def slugs_above(entry: Entry, context: Context) -> list[str]:
    """The slugs of the entries above one, the topmost first; the front page is no part of a path."""
    found = list[str]()
    for above in context.ancestors(entry):
        if _is_front(above, context):
            break
        found.append(own_slug(above, context))
    return found[::-1]


def names_above(entry: Entry, context: Context) -> list[str]:
    """What goes before the slug of an entry on a host without a tree, if that was decided; the topmost first."""
    kind = context.kind_for(entry.kind)
    if not entry.parent or not kind or context.host.kinds[kind].parents:
        return []
    if context.decisions.tree.flat != "slug":
        return []
    return slugs_above(entry, context)


def _is_front(entry: Entry, context: Context) -> bool:
    return entry.key == context.old.front_page


def own_slug(entry: Entry, context: Context) -> str:
    """The slug that an entry has by itself: the old one where the host takes it, else one made of it.

    On a host whose slugs are names of pages it is the title, as far as a name can be that.
    """
    rules, old = context.host.slugs, entry.slug or url.last_name(entry.permalink)
    if rules.letters == "name":
        sources = (" ".join(entry.title.split()), old, entry.key)
    elif slugs.accepted(old, rules):
        return old
    else:
        sources = (old, entry.title, f"entry-{entry.key}")
    return next(
        (made for source in sources if source and (made := slugs.make(source, rules))), "entry"
    )


def new_slug(entry: Entry, context: Context) -> str:
    """The slug of an entry; on a host without a tree with the names above it before it, if that was decided.

    What changes is noted as a follow-up.
    """
    own, above = own_slug(entry, context), names_above(entry, context)
    is_name = context.host.slugs.letters == "name"
    if above:
        return (
            slugs.make((" - " if is_name else "-").join([*above, own]), context.host.slugs)
            or own
        )
    old = entry.slug or url.last_name(entry.permalink)
    if is_name:
        old = " ".join(entry.title.split()) or old
    if own == old:
        return own
    reason = "The entry has no slug"
    if is_name:
        reason = "The new host does not accept the title as the name of a page"
    elif old:
        reason = "The new host does not accept the slug"
    detail = f"{old} → {own}" if old else own
    context.journal.follow_ups.add(Problem.about(entry, "new-slug", detail, reason=reason))
    return own


def _day(moment: datetime | None, context: Context) -> Day | None:
    """Year, month and day of a date as addresses tell them; None where there is no date."""
    if moment:
        return day_of(context.local(moment))
    return None
