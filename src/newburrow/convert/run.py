"""Driving a conversion: plan where everything goes, then take each entry through the steps and write it."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from newburrow.convert import pool
from newburrow.convert.context import Context
from newburrow.convert.entry_conversion import Converted, convert
from newburrow.convert.plan import (
    authors,
    entries,
    ids,
    limits,
    media,
    old_addresses,
    site_settings,
    term_pages,
    terms,
)
from newburrow.convert.step import comments, dates
from newburrow.core.dates import utc
from newburrow.core.problem import Problem, Severity
from newburrow.core.progress import Event, Listener
from newburrow.formats.base import Refused, Writer
from newburrow.model import Entry, Media, Site
from newburrow.store.journal.reader import Notes
from newburrow.store.journal.rows import Fate, LedgerRow


def plan(context: Context, listener: Listener, processes: int = 1) -> str:
    """Decide where everything goes. Settles what stays behind, and all authors and terms.

    With more than one process each entry is looked at in others. Returns when the newest entry that moves was changed
    (RFC 3339, UTC); empty where none has a date.
    """
    _twice(context)
    ids.plan(context)
    planned = entries.plan(context, listener, processes)
    authors.plan(context, planned.authors)
    terms.plan(context, planned.terms)
    context.terms |= terms.made_by_rules(context)
    media.plan(context)
    limits.plan(context)
    old_addresses.plan(context, planned.lists)
    return utc(dates.moved(planned.newest, context))


def write(
    context: Context,
    writer: Writer,
    copy: Callable[[Media, Media], None],
    listener: Listener,
    processes: int = 1,
) -> None:
    """Take every entry through the steps to the writer, then every file; settle each.

    With more than one process the steps are taken in others, which read the store and the plan from their files.
    """
    total, noted = context.store.count(Entry), Notes()
    for done, converted in enumerate(pool.each(context, convert, Converted, processes), 1):
        noted.add(_hand_over(converted, context, writer))
        if done % 50 == 0 or done == total:
            noted.write(context.planning)
            noted = Notes()
            listener(Event("Converting", done, total))
    context.planning.urls.set_late()
    for bundle, problems in term_pages.bundles(context):
        context.journal.follow_ups.add(*problems, *writer.entry(ids.step(bundle, context)[0]))
    for comment in context.store.orphans():
        on_file = context.store.get(Media, comment.entry) is not None
        if on_file:
            reason = "it stands on a file, which has no place for comments"
        else:
            reason = "its entry is not in the export"
        context.journal.ledger.add(comments.settled(comment, Fate.FAILED, reason))
    _files(context, writer, copy, listener)
    for site in context.store.all(Site):
        moved = LedgerRow(
            "site",
            site.key,
            "site",
            Fate.MOVED,
            "",
            site.title,
            site.address,
            context.new.address,
        )
        context.journal.ledger.add(moved)
    site_settings.say(context)


def _hand_over(one: Converted, context: Context, writer: Writer) -> Notes:
    """Hand an entry to the writer; gives what became of it. What that refuses fails, and its comments."""
    context.tally.update(one.tally)
    if one.bundle is None:
        return one.notes
    try:
        # What writers say is of the entry under its new id; here it goes by its own.
        own, key = one.bundle.entry.key, one.key
        said = [
            replace(problem, key=key) if problem.key == own else problem
            for problem in writer.entry(one.bundle)
        ]
    except Refused as refused:
        rows = [
            replace(row, fate=Fate.FAILED, reason="its entry failed", new="")
            for row in one.if_written[:-1]
        ]
        last = replace(one.if_written[-1], fate=Fate.FAILED, reason=refused.reason, new="")
        problem = Problem(
            Severity.ERROR,
            "not-written",
            f"The entry was not written: {refused.reason}.",
            refused.advice,
            one.bundle.entry.source,
            "entry",
            one.key,
        )
        return Notes(ledger=[*one.notes.ledger, *rows, last], follow_ups=[problem])
    one.notes.ledger += one.if_written
    one.notes.follow_ups += said
    return one.notes


def _files(
    context: Context, writer: Writer, copy: Callable[[Media, Media], None], listener: Listener
) -> None:
    total = context.store.count(Media)
    for done, record in enumerate(context.store.all(Media), 1):
        if not context.planning.ledger.has("media", record.key) and not media.leave_unshown(
            context, record
        ):
            new = context.new_media(record.key)
            assert new is not None
            copy(record, new)
            try:
                for problem in writer.media(ids.of_media(new, context)):
                    context.journal.follow_ups.add(problem)
                context.journal.ledger.add(media.moved(record, new))
            except Refused as refused:
                context.journal.ledger.add(media.failed(record, refused.reason))
                context.journal.follow_ups.add(
                    Problem(
                        Severity.ERROR,
                        "not-written",
                        f"The record of the file was not written: {refused.reason}.",
                        refused.advice,
                        record.source,
                        "media",
                        record.key,
                    )
                )
        if done % 20 == 0 or done == total:
            listener(Event("Copying files", done, total, "files"))


def _twice(context: Context) -> None:
    """What is one with another record is merged into that."""
    for double in context.store.doubles():
        record, kind = double.record, double.kind
        first = context.store.get(type(record), record.key)
        if first:
            where = f" (the first: {first.source})"
        else:
            where = ""
        reason = double.why or "stands twice in the export; the first was kept"
        if double.differs and not double.why:
            reason += ", and it differs"
        title = (
            getattr(record, "title", "")
            or getattr(record, "name", "")
            or getattr(record, "author_name", "")
        )
        old = getattr(record, "permalink", "")
        nth = double.number
        context.journal.ledger.add(
            LedgerRow(double.table, record.key, kind, Fate.MERGED, reason, title, old, nth=nth)
        )
        if double.differs:
            if double.why:
                said = f"is {double.why}"
            else:
                said = "stands twice in the export and the two differ"
            context.journal.follow_ups.add(
                Problem(
                    Severity.WARNING,
                    "twice",
                    f"The {kind} {record.key} {said}{where}.",
                    f"Compare it with the second: {record.source}.",
                    record.source,
                    double.table,
                    record.key,
                )
            )
