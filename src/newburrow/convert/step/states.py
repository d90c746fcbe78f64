"""States: what the host cannot show as it was becomes something that nobody sees by accident."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.problem import Problem
from newburrow.model.bundle import Bundle


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry in a state that the host knows."""
    entry, rules = bundle.entry, context.host.states
    status = context.decisions.states.get(entry.status, entry.status)
    if status not in rules.takes:
        status = rules.otherwise
    if status == entry.status:
        return bundle, []
    advice = "Check that this is what you want."
    if entry.status == "private":
        advice = "Check who may read it on the new host before you publish it."
    if entry.status == "published":
        advice = "Publish it on the new host once you have looked at it."
    problem = Problem.about(entry, "state-changed", old=entry.status, new=status, advice=advice)
    return replace(bundle, entry=replace(entry, status=status)), [problem]
