"""What no import carries: settings of the site, and what the content model has no place for."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.core.problem import Problem, Severity

_TALLIES = {
    "lead-once": (
        "In {count:,} entries the first picture of the body was the lead picture, which the new host shows by itself; "
        "it stands once now."
    ),
}


def say(context: Context) -> None:
    """Say what a person must set, and what is told of once for all entries."""
    _zone(context)
    _extra(context)
    for code, words in _TALLIES.items():
        if count := context.tally[code]:
            context.journal.follow_ups.add(
                Problem(Severity.INFO, code, words.format(count=count))
            )


def _zone(context: Context) -> None:
    """Settings of the site that no import carries."""
    if context.old.zone and context.old.zone != context.host.site.zone:
        problem = Problem(
            Severity.INFO,
            "site-settings",
            f"The old site told its dates in the time zone {context.old.zone}.",
            "Set the same time zone on the new host before the import.",
            object="site",
            key=context.old.key,
        )
        context.journal.follow_ups.add(problem)


def _extra(context: Context) -> None:
    """What the model has no place for is in the store; here it is listed, a line for each name."""
    for name, found, example in context.store.extras():
        space, _, local = name.rpartition("}")
        if space:
            shown = f"{local} ({space[1:]})"
        else:
            shown = local
        context.journal.follow_ups.add(
            Problem(
                Severity.INFO,
                "unread-element",
                f"{found:,} object(s) have {shown}, which has no place in the content model; for example: {example}",
                "Its values are kept in content.sqlite. If it matters, name it in [[entry.fields]] of the dialect.",
                object="site",
                key=context.old.key,
            )
        )
