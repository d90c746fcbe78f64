"""States: what the host cannot show as it was becomes something that nobody sees by accident."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.convert.context import Context
from newburrow.core.problem import Problem, Severity
from newburrow.model.bundle import Bundle


def step(bundle: Bundle, context: Context) -> tuple[Bundle, list[Problem]]:
    """The entry in a state that the host knows."""
    entry, rules = bundle.entry, context.host.states
    status = context.decisions.states.get(entry.status, entry.status)
    if status not in rules.takes:
        status = rules.otherwise
    if status == entry.status:
        return bundle, []
    problem = Problem(
        Severity.WARNING,
        "state-changed",
        f"It was {entry.status} and becomes {status}.",
        "See who may read it on the new host before you publish it."
        if entry.status == "private"
        else "See that this is what you want.",
        entry.source,
        "entry",
        entry.key,
    )
    return replace(bundle, entry=replace(entry, status=status)), [problem]
