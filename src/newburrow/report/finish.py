"""The end of a move: redirects, ledger, follow-ups and report are written, and the accounts are checked."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from newburrow.convert.context import Context
from newburrow.core import csvfile, url
from newburrow.core.problem import NOWHERE, Problem
from newburrow.core.progress import Event, Listener
from newburrow.decide import marks
from newburrow.redirects import server_files, sitemap, table
from newburrow.report import accounting, cut_over, data_lists, ledger, page, walk
from newburrow.report.files import ADDRESSES, CHANGED, NOT_PUBLIC, REPORT, WALK, WRITTEN_ANEW
from newburrow.report.outcome import FirstFollowUp, Outcome
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED
from newburrow.write.output import FolderOutput

_NAMED = 3  # follow-ups that the outcome names


def finish(
    context: Context, output: FolderOutput, listener: Listener, jobs: int = 1
) -> Outcome:
    """Write what reports on a finished move: ledger, follow-ups, redirects, sitemap, the report.

    Compares what was found with the fates, for each kind; the outcome says whether they add up. With
    more than one job, redirects are written in other processes at the same time.
    """
    journal, decided = context.planning, context.decisions.redirects
    listener(Event("Writing redirects, ledger and report", 0, 1, "steps"))
    counts = accounting.accounts(context.store, journal)
    file_counts = accounting.file_counts(context.store)
    problems = accounting.check(counts, file_counts)
    journal.follow_ups.add(*problems)
    journal.follow_ups.add_marks(marks.marks(output.folder.path))
    journal.urls.shorten()
    walked = walk.walk(context)
    csvfile.write(output.plain(WALK), walk.COLUMNS, walk.rows(context))
    new = context.new_pages.archives
    with server_files.writing(decided, journal, output.plain, jobs, new) as written:
        # Meanwhile, do what takes long and does not need the servers' files.
        table.write(output.plain(ADDRESSES), journal.urls.all(), decided.status)
        csvfile.write(output.plain(CHANGED), ("old", "new"), _changed(journal))
        csvfile.write(output.plain(NOT_PUBLIC), ("old", "new"), journal.urls.not_public())
        pages = (new for _old, new, _key in journal.plan.pages())
        sitemap.write(
            lambda name: output.plain(f"redirects/{name}"), pages, context.new.address
        )
        ledger.write_fates(output.plain, journal)
    for server, files in written.items():
        if files.skipped:
            journal.follow_ups.add(_not_written(server, files.skipped))
    ledger.write_follow_ups(output, journal)
    steps = cut_over.write(context, output, written, marks.ticks(output.folder.path))
    outcome = Outcome(
        counts,
        redirect_counts(journal),
        journal.follow_ups.count(),
        journal.follow_ups.count_settled(),
        None if output.rehearse else output.folder.path,
        problems,
        walked,
        [
            FirstFollowUp(severity, title, what)
            for _code, severity, title, _old, _new, what, *_more in islice(
                journal.follow_ups.grouped(), _NAMED
            )
        ],
        file_counts,
    )
    if not output.rehearse:
        with output.plain(REPORT) as stream:
            guidance = {server: files.guidance for server, files in written.items()}
            rows = data_lists.walked(walk.COLUMNS, walk.rows(context))
            page.write(stream, context, outcome, rows, steps, guidance)
        output.folder.tidy(WRITTEN_ANEW)
    return outcome


def _changed(journal: Journal) -> Iterator[tuple[str, str]]:
    """Old and new address of each page that a visitor can see and whose address changes."""
    for old, new, new_key in journal.plan.pages():
        if old and url.key(old) != new_key:
            yield old, new


def redirect_counts(journal: Journal) -> dict[str, int]:
    """How many old addresses are `unchanged`, `redirected` and `gone`."""
    counts = journal.urls.count()
    names = {"unchanged": UNCHANGED, "redirected": REDIRECTED, "gone": GONE}
    return {name: counts.get(status, 0) for name, status in names.items()}


def _not_written(server: str, skipped: int) -> Problem:
    return Problem.at(NOWHERE, "redirect-not-written", number=skipped, server=server)
