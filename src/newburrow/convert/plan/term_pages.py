"""Terms that become pages, or modules of a course: with their description and a list of what was filed under them."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core import url, url_pattern
from newburrow.hosts import slugs
from newburrow.model import Entry, Term
from newburrow.store.journal.rows import Place

_KINDS = ("module", "page")  # the first that the host has


def kind_of(context: Context) -> str:
    """The kind of the new host that terms become; empty for a host that has none."""
    return next(filter(None, map(context.kind_for, _KINDS)), "")


def key_of(term: Term) -> str:
    """The key of the page that a term becomes. It contains a space, which no key of an export does."""
    return f"term {term.key}"


def address_of(term: Term, context: Context) -> str:
    """The address of a term's page on the new site; empty if it has none."""
    place = context.journal.plan.get(key_of(term))
    if place:
        return place.new
    return ""


def place(context: Context, used: set[str], after: int) -> None:
    """Give each term that becomes a page, and is used, its place in the plan.

    `used` are the keys of terms of entries that move. `after` is the number of the last entry: these pages
    follow it. A term is not placed if the host has no pages.
    """
    kind = kind_of(context)
    for number, term in enumerate(context.pages_of_terms.values(), after + 1):
        if term.key not in used or not kind:
            continue
        pattern = context.decisions.addresses.get(kind) or context.host.kinds[kind].address
        slug = (
            slugs.make(term.slug, context.host.slugs)
            or slugs.make(term.name, context.host.slugs)
            or "term"
        )
        values = {"slug": slug, "id": term.slug}
        new = url.resolve(context.new.address, url_pattern.expand(pattern, values))
        context.planning.plan.add(
            (Place(number, key_of(term), kind, "", "", new, url.key(new), new, True), "")
        )


def filed(entry: Entry, key: str, new: str, context: Context) -> Entry:
    """An entry that was filed under a term that is now a page.

    `new` is the entry's new address. The entry is added to the list on that page, and becomes its child if
    its kind has parents and it has none. It comes back unchanged if that page has no place.
    """
    term = context.pages_of_terms[key]
    if not address_of(term, context):
        return entry
    context.journal.term_lists.add(key, entry.title or entry.slug or new, new)
    if entry.parent or not context.host.kinds[entry.kind].parents:
        return entry
    return replace(entry, parent=key_of(term))
