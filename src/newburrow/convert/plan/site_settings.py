"""What no import carries: settings of the site, and what the content model has no place for."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.core.problem import NOWHERE, Problem
from newburrow.model.site import LINKED_ADDRESS, UNSTATED_ADDRESS

_TALLIES = ("lead-once", "file-not-content")  # codes that are reported once for all entries


def say(context: Context) -> None:
    """Report the settings that a person must make, and what is reported once for all entries."""
    _zone(context)
    _address(context)
    _extra(context)
    for code in _TALLIES:
        if count := context.tally[code]:
            context.journal.follow_ups.add(Problem.at(NOWHERE, code, number=count))


def _zone(context: Context) -> None:
    """Settings of the site that no import carries."""
    if context.old.zone and context.old.zone != context.host.site.zone:
        problem = Problem.about(context.old, "site-settings", zone=context.old.zone)
        context.journal.follow_ups.add(problem)


def _address(context: Context) -> None:
    """Sites whose address nobody has stated; the pages of a package had none."""
    for site in context.sites:
        if not site.is_addressed and not context.is_package:
            problem = Problem.about(site, "site-address-unknown", address=site.address)
            context.journal.follow_ups.add(problem)
        for linked in site.extra.get(LINKED_ADDRESS, ()):
            problem = Problem.about(site, "site-address-by-links", address=linked)
            context.journal.follow_ups.add(problem)


def _extra(context: Context) -> None:
    """What the model has no place for is in the store; here it is listed, a line for each name."""
    for name, found, example in context.store.extras():
        if name in (UNSTATED_ADDRESS, LINKED_ADDRESS):
            continue
        space, _, local = name.rpartition("}")
        if space:
            shown = f"{local} ({space[1:]})"
        else:
            shown = local
        context.journal.follow_ups.add(
            Problem.about(
                context.old,
                "unread-element",
                message=f"{found:,} object(s) have {shown}, which has no place in the content model; "
                f"for example: {example}",
                advice="Its values are kept in content.sqlite. If it matters, "
                "name it in [[entry.fields]] of the dialect.",
            )
        )
