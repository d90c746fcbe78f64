"""Driving a conversion: plan where everything goes, then take each entry through the steps and write it."""

from __future__ import annotations

import logging
from collections.abc import Callable

from msgspec.structs import replace

from newburrow.convert import (
    apart,
    authors,
    choose,
    comments,
    dates,
    held,
    ids,
    limits,
    media,
    oldaddresses,
    places,
    settings,
    termpages,
    terms,
)
from newburrow.convert.context import Context
from newburrow.convert.steps import STEPS
from newburrow.events import Event, Listener
from newburrow.formats.base import Refused, Writer
from newburrow.formats.dates import utc
from newburrow.journal import Fate, Settled
from newburrow.model import Bundle, Comment, Entry, Media, Site
from newburrow.problem import Problem, Severity

log = logging.getLogger(__name__)


def plan(context: Context, listener: Listener) -> str:
    """Decide where everything goes. Settles what stays behind, and all authors and terms.

    Returns when the newest entry that moves was changed (RFC 3339, UTC); empty where none has a date.
    """
    _twice(context)
    ids.plan(context)
    planned = places.plan(context, listener)
    authors.plan(context, planned.authors)
    terms.plan(context, planned.terms)
    context.terms |= terms.made_by_rules(context)
    media.plan(context)
    limits.plan(context)
    oldaddresses.plan(context)
    return utc(dates.moved(planned.newest, context))


def write(context: Context, writer: Writer, copy: Callable[[Media, Media], None], listener: Listener) -> None:
    """Take every entry through the steps to the writer, then every file; settle each."""
    total = context.store.count(Entry)
    for done, entry in enumerate(context.store.all(Entry), 1):
        _entry(entry, context, writer)
        if done % 50 == 0 or done == total:
            listener(Event("Converting", done, total))
    for bundle, problems in termpages.bundles(context):
        for problem in (*problems, *writer.entry(ids.step(bundle, context)[0])):
            context.journal.follow_up(problem)
    for comment in context.store.orphans():
        on_file = context.store.get(Media, comment.entry) is not None
        reason = "it stands on a file, which has no place for comments" if on_file else "its entry is not in the export"
        context.journal.settle(comments.settled(comment, Fate.FAILED, reason))
    _files(context, writer, copy, listener)
    for site in context.store.all(Site):
        moved = Settled("site", site.key, "site", Fate.MOVED, "", site.title, site.address, context.new.address)
        context.journal.settle(moved)
    settings.say(context)


def _entry(entry: Entry, context: Context, writer: Writer) -> None:
    place = context.journal.place_of(entry.key)
    theirs = context.store.comments_of(entry)
    if place is None:
        for comment in theirs:
            context.journal.settle(
                comments.settled(comment, Fate.LEFT_OUT, "its entry stays behind", old=entry.permalink)
            )
        return
    if place.held:
        _already_there(entry, theirs, place.new, context)
        return
    decided = context.decided(entry)
    bundle = Bundle(decided, comments=tuple(theirs), new_address=place.new)
    problems: list[Problem] = []
    for what, step in STEPS:
        try:
            bundle, said = step(bundle, context)
        except Exception as error:
            _crashed(entry, theirs, what, error, context)
            return
        problems += said
    try:
        problems += writer.entry(bundle)
    except Refused as refused:
        _refused(entry, theirs, refused, context)
        return
    _settle(entry, theirs, bundle, place.new, problems, context)


def _settle(
    entry: Entry, theirs: list[Comment], bundle: Bundle, new: str, problems: list[Problem], context: Context
) -> None:
    """What moved, moved; what is to be said of it is said."""
    for problem in problems:
        # What writers say is of the entry under its new id; here it goes by its own.
        own = problem.object == "entry" and problem.key != entry.key
        context.journal.follow_up(replace(problem, key=entry.key) if own else problem)
    for comment in theirs:
        if not choose.reason_to_leave_comment(comment, context):
            reason = apart.REASONS.get(apart.where(comment, context), "")
            context.journal.settle(comments.settled(comment, Fate.MOVED, reason, new, entry.permalink))
    for comment in bundle.apart:
        if apart.where(comment, context) == apart.FILE:
            context.journal.set_aside(apart.line(comment, new))
    context.journal.settle(places.settle_entry(entry, Fate.MOVED, new=new))


def _already_there(entry: Entry, theirs: list[Comment], there: str, context: Context) -> None:
    """An entry that the new host has already is not made again; comments that it lacks are told of."""
    journal, old = context.journal, entry.permalink
    journal.settle(places.settle_entry(entry, Fate.MERGED, "is on the new host already", there))
    lacking = 0
    for comment in theirs:
        if journal.is_held("comment", held.mark_of(comment, there)):
            row = comments.settled(comment, Fate.MERGED, "is on the new host already", there, old)
        else:
            why = choose.reason_to_leave_comment(comment, context)
            lacking += not why
            why = why or "its entry is on the new host already and is skipped (move.toml, new.already_there)"
            row = comments.settled(comment, Fate.LEFT_OUT, why, "", old)
        journal.settle(row)
    if lacking:
        message = f"The entry is on the new host already, without {lacking:,} of its comments."
        advice = 'To have them there too: new.already_there = "update" in move.toml.'
        journal.follow_up(
            Problem(Severity.WARNING, "comments-skipped", message, advice, entry.source, "entry", entry.key)
        )


def _refused(entry: Entry, theirs: list[Comment], refused: Refused, context: Context) -> None:
    """What the writer cannot write fails, and what hangs on it."""
    context.journal.settle(places.settle_entry(entry, Fate.FAILED, refused.reason))
    context.journal.follow_up(
        Problem(
            Severity.ERROR, "not-written", f"The entry was not written: {refused.reason}.", refused.advice,
            entry.source, "entry", entry.key,
        )
    )  # fmt: skip
    for comment in theirs:
        if not context.journal.is_settled("comment", comment.key):
            context.journal.settle(comments.settled(comment, Fate.FAILED, "its entry failed", old=entry.permalink))


def _crashed(entry: Entry, theirs: list[Comment], what: str, error: Exception, context: Context) -> None:
    """A fault of ours in one entry is a failure of that entry, not of the whole run."""
    log.error("entry %s failed while trying to %s", entry.key, what, exc_info=error)
    reason = f"a fault in New Burrow while trying to {what}: {type(error).__name__}: {error}"
    context.journal.settle(places.settle_entry(entry, Fate.FAILED, reason))
    context.journal.follow_up(
        Problem(
            Severity.ERROR,
            "fault",
            f"The entry was not moved: {reason}.",
            "Move it by hand, and report the fault with the log (--log FILE).",
            entry.source,
            "entry",
            entry.key,
        )
    )
    for comment in theirs:
        if not context.journal.is_settled("comment", comment.key):
            context.journal.settle(comments.settled(comment, Fate.FAILED, "its entry failed", old=entry.permalink))


def _files(context: Context, writer: Writer, copy: Callable[[Media, Media], None], listener: Listener) -> None:
    total = context.store.count(Media)
    for done, record in enumerate(context.store.all(Media), 1):
        if not context.journal.is_settled("media", record.key) and not media.leave_unshown(context, record):
            new = context.new_media(record.key)
            assert new is not None
            copy(record, new)
            try:
                for problem in writer.media(ids.of_media(new, context)):
                    context.journal.follow_up(problem)
                context.journal.settle(media.moved(record, new))
            except Refused as refused:
                context.journal.settle(media.failed(record, refused.reason))
                context.journal.follow_up(
                    Problem(Severity.ERROR, "not-written", f"The record of the file was not written: {refused.reason}.",
                            refused.advice, record.source, "media", record.key)
                )  # fmt: skip
        if done % 20 == 0 or done == total:
            listener(Event("Copying files", done, total, "files"))


def _twice(context: Context) -> None:
    """What is one with another record is merged into that."""
    for double in context.store.twice():
        record, kind = double.record, double.kind
        first = context.store.get(type(record), record.key)
        where = f" (the first: {first.source})" if first else ""
        reason = double.why or "stands twice in the export; the first was kept"
        if double.differs and not double.why:
            reason += ", and it differs"
        title = getattr(record, "title", "") or getattr(record, "name", "") or getattr(record, "author_name", "")
        old = getattr(record, "permalink", "")
        nth = double.number
        context.journal.settle(Settled(double.table, record.key, kind, Fate.MERGED, reason, title, old, nth=nth))
        if double.differs:
            said = f"is {double.why}" if double.why else "stands twice in the export and the two differ"
            context.journal.follow_up(
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
