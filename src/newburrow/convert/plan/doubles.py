"""Records that are one with another: they are merged into the one that was kept."""

from __future__ import annotations

from newburrow.convert.context import Context
from newburrow.core.problem import Problem
from newburrow.model.record_types import name_of
from newburrow.store.content_store import Double
from newburrow.store.journal.rows import Fate, LedgerRow


def settle(context: Context) -> None:
    """Settle every double; where it differs from the record that was kept, that is a follow-up."""
    for double in context.store.doubles():
        record = double.record
        reason = double.why or "is in the export twice; the first was kept"
        if double.differs and not double.why:
            reason += ", and it differs"
        row = LedgerRow(
            double.table,
            record.key,
            double.kind,
            Fate.MERGED,
            reason,
            name_of(record),
            getattr(record, "permalink", ""),
            nth=double.number,
        )
        context.journal.ledger.add(row)
        if double.differs:
            context.journal.follow_ups.add(_difference(double, context))


def _difference(double: Double, context: Context) -> Problem:
    record = double.record
    first = context.store.get(type(record), record.key)
    why = f"is {double.why}"
    if not double.why:
        why = "is in the export twice, and the two differ"
    return Problem.about(
        record,
        "twice",
        kind=double.kind,
        why=why,
        first=f" (the first: {first.source})" if first else "",
        second=record.source,
    )
