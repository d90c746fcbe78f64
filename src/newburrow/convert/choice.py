"""Choosing: what moves and what is left out, each with the rule that says so."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.decide.condition import Condition
from newburrow.dialects.loader import is_preset
from newburrow.model import Entry

_NOT_CHOSEN = "does not match choose.only"


def reason_to_leave(entry: Entry, context: Context) -> str:
    """Why an entry is left out; empty for one that moves."""
    choose = context.decisions.choose
    if context.has_edits and context.edits.leaves(entry):
        return "left out in entries.csv"
    # A kind that the export has not was not there to choose: a rule or the table of entries has given it.
    if entry.kind not in choose.kinds and entry.kind in context.kinds_read:
        return f"entries of the kind {entry.kind} are left out (move.toml, choose.kinds)"
    if entry.status not in choose.states:
        return f"{entry.status} entries are left out (move.toml, choose.states)"
    if choose.preset_content == "leave-out" and preset(entry, context):
        return "preset content of the old host (move.toml, choose.preset_content)"
    only, leave = context.chosen
    if not only(entry) and not context.journal.plan.is_ancestor(entry.key):
        return f"{_NOT_CHOSEN} by {_names(choose.only)} (move.toml)"
    for number, test in enumerate(leave):
        if test(entry):
            return f"left out by choose.leave {number + 1} in move.toml ({_names(choose.leave[number])})"
    return ""


def is_aside(reason: str) -> bool:
    """Whether this reason to leave an entry is only that something else was chosen."""
    return reason.startswith(_NOT_CHOSEN)


def find_parents(context: Context) -> None:
    """Note the parents of the entries that `only` asks for: they move with them."""
    only, _leave = context.chosen
    if not context.decisions.choose.only.names():
        return
    for entry in context.store.all(Entry):
        decided = context.decided(entry)
        above: Entry | None = decided
        while (
            above
            and above.parent
            and not context.journal.plan.is_ancestor(above.parent)
            and only(decided)
        ):
            context.planning.plan.add_ancestor(above.parent)
            above = context.store.get(Entry, above.parent)


def _names(condition: Condition) -> str:
    return " and ".join(condition.names())


def preset(entry: Entry, context: Context) -> bool:
    """Whether an entry is preset content of the old host."""
    return any(
        is_preset(dialect, entry.kind, entry.slug, entry.title) for dialect in context.dialects
    )
