"""Writing `report.html`. Everything in it that comes from an export is text: no markup of it is let through."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import islice
from typing import BinaryIO

from newburrow.convert.context import Context
from newburrow.model import Term
from newburrow.report import walk
from newburrow.report.accounting import Account
from newburrow.report.outcome import Outcome, StepRow
from newburrow.report.pages import environment

# rows of one list; a browser gets slow beyond that, and the tables beside it hold all
MOST = 3000

_QUIZZES_SHOWN = 40  # of which the report shows the questions
_FATE_WORDS = {"moved": "moved", "merged": "merged", "left-out": "left out", "failed": "failed"}


def write(
    stream: BinaryIO,
    context: Context,
    outcome: Outcome,
    chart: str,
    steps: Sequence[StepRow],
) -> None:
    """Write the report as one self-contained HTML page.

    `chart` is an SVG of entries by year. Nothing from the export becomes markup or script in it; long
    lists are cut, with the number of rows that the tables have.
    """
    journal = context.planning
    ledger = list(islice(journal.ledger.not_moved(), MOST))
    ledger += islice(journal.ledger.moved(), MOST - len(ledger))
    page = (
        environment()
        .get_template("report.html.j2")
        .stream(
            old=context.old,
            new=context.new,
            host=context.host,
            counts=outcome.counts,
            redirects=outcome.redirects,
            becomes=_becomes(outcome.counts, context),
            walked=outcome.walk,
            quizzes=list(islice(journal.quizzes.all(), MOST)),
            quizzes_shown=_QUIZZES_SHOWN,
            walk_rows=list(islice(walk.rows(context), MOST)),
            dialects=", ".join(dialect.title or dialect.name for dialect in context.dialects),
            severities=journal.follow_ups.count(),
            ledger=ledger,
            follow_ups=list(islice(journal.follow_ups.grouped(), MOST)),
            settled=outcome.settled,
            addresses=list(islice(journal.urls.all(), MOST)),
            files=outcome.files.sentence,
            ledger_total=sum(account.found for account in outcome.counts.values()),
            follow_up_total=sum(journal.follow_ups.count().values()) + sum(outcome.settled),
            address_total=sum(outcome.redirects.values()),
            most=MOST,
            fate_words=_FATE_WORDS,
            chart=chart,
            steps=steps,
        )
    )
    page.enable_buffering(64)
    for piece in page:
        stream.write(piece.encode("utf-8", "replace"))


def _becomes(counts: dict[str, Account], context: Context) -> dict[str, str]:
    """What each kind of object is called on the new host."""
    found = {kind: context.kind_for(kind) or kind for kind in counts}
    for term in context.store.all(Term):
        found[term.vocabulary] = context.vocabulary_for(term.vocabulary)
    return found
