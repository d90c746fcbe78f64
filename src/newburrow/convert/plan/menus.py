"""The front page and the menus: written where the import has a place for them, else told as they are to be set."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.assess.link_map import LinkTarget
from newburrow.convert.context import Context
from newburrow.core import url
from newburrow.core.problem import NOWHERE, Problem
from newburrow.model import Entry, MenuItem, Site
from newburrow.store.journal.rows import Fate, LedgerRow


def of_site(context: Context) -> Site:
    """The new site with the id of its front page; if the import has no place for that, it is a follow-up."""
    if context.old.front_page:
        entry = context.store.get(Entry, context.old.front_page)
    else:
        entry = None
    if entry:
        place = context.journal.plan.get(entry.key)
    else:
        place = None
    if entry and place and context.host.site.front_page:
        return replace(context.new, front_page=context.new_id("entry", entry.key))
    if entry:
        now = "is left out"
        advice = "Choose another on the new host."
        if place:
            now = f"is now at {place.new}"
            advice = "Make that page the front page on the new host."
        context.journal.follow_ups.add(
            Problem.about(entry, "front-page", title=entry.title, now=now, advice=advice)
        )
    return replace(context.new, front_page="")


def plan(context: Context) -> tuple[MenuItem, ...]:
    """Settle all menu items; gives them with their new targets, parents first, if the import has a place for menus."""
    lines = list(_ordered(context))
    made = [replace(line, target=_target(line, context)) for line in lines]
    has_place = context.host.site.menus
    if has_place:
        why = ""
    else:
        why = "the import has no place for menus: set it by hand, as follow-ups.csv says"
    for line, new in zip(lines, made, strict=True):
        if has_place:
            fate = Fate.MOVED
        else:
            fate = Fate.LEFT_OUT
        context.journal.ledger.add(
            LedgerRow(
                "menuitem",
                line.key,
                "menu-item",
                fate,
                why,
                f"{line.menu}: {line.label}",
                line.target,
                new.target,
            )
        )
    if not has_place:
        _say(made, context)
    if has_place:
        return tuple(made)
    return ()


def _ordered(context: Context) -> Iterator[MenuItem]:
    """Menu after menu, each line before those under it. What is under nothing known, or in a circle, is on top."""
    lines = sorted(
        context.store.all(MenuItem),
        key=lambda menu_item: (menu_item.position is None, menu_item.position or 0),
    )
    known = {line.key for line in lines}
    under: dict[str, list[MenuItem]] = {}
    for line in lines:
        under.setdefault(line.parent if line.parent in known else "", []).append(line)
    left = {line.key: line for line in lines}
    waiting = list(reversed(under.get("", [])))
    while left:
        if not waiting:
            first = next(iter(left.values()))
            waiting = [replace(first, parent="")]
        line = waiting.pop()
        if left.pop(line.key, None) is not None:
            yield line if line.parent in known else replace(line, parent="")
            waiting += reversed(under.get(line.key, []))


def _target(line: MenuItem, context: Context) -> str:
    """Where a line leads on the new site; empty where that is left out, which is reported."""
    place = context.journal.plan.get(line.target)
    if place:
        return place.new
    if not line.target or context.store.get(Entry, line.target):
        link = None
    else:
        link = context.links.follow(line.target, context.old.address)
        if link.leads is LinkTarget.HERE:
            return url.resolve(context.new.address, "/")
    if link is None or link.leads in (LinkTarget.GONE, LinkTarget.UNKNOWN, LinkTarget.UNSAFE):
        context.journal.follow_ups.add(
            Problem.about(line, "menu-target", label=line.label, menu=line.menu)
        )
        return ""
    return link.address


def _say(lines: list[MenuItem], context: Context) -> None:
    """One follow-up for each menu, with every line of it."""
    numbers: dict[str, str] = {}
    counts: dict[str, int] = {}
    menus: dict[str, list[str]] = {}
    for line in lines:
        counts[f"{line.menu}\n{line.parent}"] = nth = (
            counts.get(f"{line.menu}\n{line.parent}", 0) + 1
        )
        if line.parent:
            numbers[line.key] = f"{numbers[line.parent]}.{nth}"
        else:
            numbers[line.key] = str(nth)
        menus.setdefault(line.menu, []).append(
            f"{numbers[line.key]} {line.label} → {line.target or '(nothing)'}"
        )
    for name, menu_items in menus.items():
        context.journal.follow_ups.add(
            Problem.at(NOWHERE, "menu", menu=name, items="; ".join(menu_items))
        )
