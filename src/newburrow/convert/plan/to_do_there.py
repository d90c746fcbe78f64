"""What is left to do on the new host itself: pages of its own to remove, and pages that nothing leads to."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.core import url
from newburrow.core.problem import NOWHERE, Problem
from newburrow.model import Entry, MenuItem


def say(context: Context) -> None:
    """Report both. To be called when every entry has been converted: only then all links are known."""
    _own_pages(context)
    _unreached(context)


def _own_pages(context: Context) -> None:
    """What the host creates on every new site; of a site of which it is known what it holds, what is there of it."""
    addresses = [url.resolve(context.new.address, path) for path in context.host.site.own_pages]
    existing = context.journal.existing
    if existing.is_known:
        addresses = [
            address for address in addresses if existing.has("entry", url.key(address))
        ]
    if addresses:
        context.journal.follow_ups.add(
            Problem.at(NOWHERE, "host-own-page", addresses=", ".join(addresses))
        )


def _unreached(context: Context) -> None:
    """Pages that no menu names and nothing that moves links to; one in a tree of pages is found by that."""
    kind = context.kind_for("page")
    if not kind:
        return
    has_tree = context.host.kinds[kind].parents
    named = {context.old.front_page, *in_menus(context)}
    for key in context.planning.plan.unreached(kind):
        entry = context.store.get(Entry, key)
        if entry is None or entry.kind != "page" or key in named:
            continue
        if not (has_tree and entry.parent and context.journal.plan.get(entry.parent)):
            context.journal.follow_ups.add(Problem.about(entry, "unreached-page"))


def in_menus(context: Context) -> set[str]:
    """Keys of the entries that the menus of the old site name."""
    found = set[str]()
    for line in context.store.all(MenuItem):
        link = context.links.follow(line.target, context.old.address)
        found |= {line.target, context.journal.plan.key_at(url.key(link.address)) or ""}
    return found
