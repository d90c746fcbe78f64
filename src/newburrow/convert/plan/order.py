"""The plan of a whole move: what is decided in which order."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.convert.plan import (
    authors,
    doubles,
    entries,
    ids,
    limits,
    media,
    old_addresses,
    terms,
)
from newburrow.convert.step import dates
from newburrow.core.dates import utc
from newburrow.core.problem import refusal
from newburrow.core.progress import Listener
from newburrow.model import Entry


def plan(context: Context, listener: Listener, jobs: int = 1) -> str:
    """Decide where everything goes. Settles what is left out, and all authors and terms.

    With more than one job, entries are shared among so many processes. Gives when the newest entry
    that moves was changed (RFC 3339, UTC); empty where none has a date.
    """
    doubles.settle(context)
    ids.plan(context)
    planned = entries.plan(context, listener, jobs)
    if context.host.history.taken:
        planned.authors |= context.store.revision_authors()
    authors.plan(context, planned.authors)
    terms.plan(context, planned.terms)
    context.terms |= terms.made_by_rules(context)
    context.terms = terms.with_new_keys(context.terms)
    media.plan(context)
    limits.plan(context)
    old_addresses.plan(context, planned.lists)
    return utc(dates.moved(planned.newest, context))


def check_any(context: Context) -> None:
    """Raises BurrowError, with the reasons, where the export has entries and not one of them has a place."""
    found = context.store.count(Entry)
    if not found or context.planning.plan.count_kinds():
        return
    reasons = "; ".join(
        f"{number:,}: {reason}" for reason, number in context.planning.ledger.reasons("entry")
    )
    raise refusal(
        "nothing-moves",
        f"No entry would move; the export has {found:,} ({reasons}).",
        "Change what those settings choose, or hand in another export.",
    )
