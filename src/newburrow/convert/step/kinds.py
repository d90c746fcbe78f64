"""Kinds: each entry becomes one of the host's kinds; what that kind lacks is reported."""

from __future__ import annotations

import re
from urllib.parse import unquote

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core import url, url_pattern
from newburrow.core.problem import Problem
from newburrow.model import Entry
from newburrow.model.bundle import Above, Bundle


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry as its kind on the new host, without parent and position where that kind has none."""
    entry, problems = bundle.entry, list[Problem]()
    name = context.kind_for(entry.kind)
    rules = context.host.kinds[name]
    changes: dict[str, object] = {"kind": name, "slug": _slug(bundle, name, context)}
    if (title := _title(entry, context)) != entry.title:
        changes["title"] = title
    if entry.parent == context.old.front_page and not rules.parents:
        changes["parent"] = ""  # every page of the old wiki was under it
    elif entry.parent and not rules.parents:
        parent = context.store.get(Entry, entry.parent)
        if parent:
            parent_title = f"“{parent.title}”"
        else:
            parent_title = f"the entry {entry.parent}"
        changes["parent"] = ""
        if context.decisions.tree.flat == "drop":
            problems.append(Problem.about(entry, "no-tree", parent=parent_title, kind=name))
    elif entry.parent and context.journal.plan.get(entry.parent) is None:
        above = _standing_parent(entry, context)
        if above:
            changes["parent"] = above.key
        else:
            changes["parent"] = ""
        if above:
            now = f"It is now under “{above.title}”."
        else:
            now = "It now has no parent."
        problems.append(Problem.about(entry, "parent-left-out", now=now))
    if entry.position is not None and not rules.positions:
        changes["position"] = None
        problems.append(Problem.about(entry, "no-order", str(entry.position), kind=name))
    trail = _trail(replace(entry, **changes), context) if rules.parents else ()
    return replace(bundle, entry=replace(entry, **changes), trail=trail), problems


def _trail(entry: Entry, context: Context) -> tuple[Above, ...]:
    """The entries above one that move, the topmost first."""
    found = [
        Above(above.title, place.new)
        for above in context.ancestors(entry)
        if (place := context.journal.plan.get(above.key))
    ]
    return tuple(reversed(found))


def _title(entry: Entry, context: Context) -> str:
    """The title of an entry; on a host without a tree with the titles above it, if that was decided."""
    kind = context.kind_for(entry.kind)
    if not entry.parent or not kind or context.host.kinds[kind].parents:
        return entry.title
    if context.decisions.tree.flat != "title":
        return entry.title
    above = [
        found.title for found in context.ancestors(entry) if found.key != context.old.front_page
    ]
    return " / ".join([*reversed(above), entry.title])


def _slug(bundle: Bundle, kind: str, context: Context) -> str:
    """The slug in the new address, which can differ from the old one; the old one where the address has none."""
    pattern = context.decisions.addresses.get(kind) or context.host.kinds[kind].address
    parts = url.split(bundle.new_address)
    if parts is None or "slug" not in url_pattern.variables(pattern):
        return bundle.entry.slug
    if parts.query:
        path = f"{parts.path}?{parts.query}"
    else:
        path = parts.path
    last = pattern.rstrip("/").rpartition("/")[
        2
    ]  # all that is sure where a value was empty, as the date's can be
    for whole in (pattern, last if "slug" in url_pattern.variables(last) else ""):
        if whole and (found := re.search(url_pattern.matcher(whole).pattern + r"/?$", path)):
            return unquote(found["slug"])
    return bundle.entry.slug


def _standing_parent(entry: Entry, context: Context) -> Entry | None:
    """The nearest entry above this one that moves; none where parents go in a circle."""
    seen = {entry.key}
    while entry.parent and entry.parent not in seen:
        seen.add(entry.parent)
        above = context.store.get(Entry, entry.parent)
        if above is None:
            return None
        if context.journal.plan.get(above.key):
            return above
        entry = above
    return None
