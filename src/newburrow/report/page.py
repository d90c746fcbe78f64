"""Writing `report.html`. Everything in it that comes from an export is text: no markup of it is let through."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import islice
from pathlib import Path
from typing import BinaryIO

from newburrow.convert.context import Context
from newburrow.model import Term
from newburrow.model.record_types import type_in
from newburrow.report import charts, data_lists, file_hosts, samples
from newburrow.report.accounting import Account
from newburrow.report.data_lists import DataList
from newburrow.report.outcome import Outcome, StepRow
from newburrow.report.pages import environment
from newburrow.report.samples import SampleSource
from newburrow.store.journal.handed_over import HandedOver

_QUIZZES = 3000  # quizzes that are named
_QUIZZES_SHOWN = 40  # of which the report shows the questions
_REASONS = 5  # why objects of one type did not move
_EXPLAINED = ("entry", "comment", "media")


def write(
    stream: BinaryIO,
    context: Context,
    outcome: Outcome,
    walked: DataList,
    steps: Sequence[StepRow],
    guidance: Mapping[str, str],
) -> None:
    """Write the report as one self-contained HTML page.

    `walked` has the rows of the walk, `guidance` for each server how its redirects are put into place. Nothing from
    the export becomes markup or script in the page; the long lists are in it whole.
    """
    journal = context.planning
    years = journal.plan.by_year()
    page = (
        environment()
        .get_template("report.html.j2")
        .stream(
            old=context.old,
            new=context.new,
            host=context.host,
            verdict=outcome.verdict,
            counts=outcome.counts,
            redirects=outcome.redirects,
            becomes=_becomes(outcome.counts, context),
            reasons=_reasons(context),
            walked=outcome.walk,
            quizzes=list(islice(journal.quizzes.all(), _QUIZZES)),
            quizzes_shown=_QUIZZES_SHOWN,
            dialects=", ".join(dialect.title or dialect.name for dialect in context.dialects),
            settled=outcome.settled,
            codes=journal.follow_ups.codes(),
            severity_filters=_severity_filters(outcome),
            follow_ups=data_lists.follow_ups(journal),
            addresses=data_lists.addresses(journal),
            has_walk=outcome.walk is not None and outcome.walk.has_home,
            walk=walked,
            names=data_lists.names(context),
            ledger=data_lists.ledger(journal),
            samples=samples.as_json(_samples(context, outcome.out or Path())),
            files=outcome.files.sentence,
            file_hosts=file_hosts.by_host(journal.ledger.of_files()),
            ledger_total=sum(account.found for account in outcome.counts.values()),
            follow_up_total=sum(outcome.follow_ups.values()),
            address_total=sum(outcome.redirects.values()),
            chart=charts.by_year(years),
            years=years,
            steps=steps,
            guidance=list(guidance.items()),
        )
    )
    page.enable_buffering(64)
    for piece in page:
        stream.write(piece.encode("utf-8", "replace"))


def _samples(context: Context, folder: Path) -> SampleSource:
    journal = context.planning
    handed = HandedOver(journal.connection)
    return SampleSource(context.store, context.dialects, journal, handed, folder)


def _reasons(context: Context) -> list[tuple[str, str, int]]:
    """Why objects did not move: what they are, the reason, how many; the most frequent reasons."""
    return [
        (type_in(table).plural, reason, number)
        for table in _EXPLAINED
        for reason, number in context.planning.ledger.reasons(table)[:_REASONS]
    ]


def _severity_filters(outcome: Outcome) -> list[tuple[str, str, bool]]:
    """The boxes of the follow-ups: value, words, whether it is ticked at first."""
    found = outcome.follow_ups
    filters = [
        (severity, f"{severity} {number:,}", severity != "note" or len(found) == 1)
        for severity, number in found.items()
    ]
    settled = sum(outcome.settled)
    if settled:
        filters.append(("settled", f"done or accepted {settled:,}", False))
    return filters


def _becomes(counts: dict[str, Account], context: Context) -> dict[str, str]:
    """What each kind of object is called on the new host."""
    found = {kind: context.kind_for(kind) or kind for kind in counts}
    for term in context.store.all(Term):
        found[term.vocabulary] = context.vocabulary_for(term.vocabulary)
    return found
