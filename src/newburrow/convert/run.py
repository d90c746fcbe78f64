"""Driving a conversion: plan where everything goes, then take each entry through the steps and write it."""

from __future__ import annotations

import logging
from collections.abc import Callable

from newburrow.convert import authors, comments, media, oldaddresses, places, terms
from newburrow.convert.context import Context
from newburrow.convert.steps import STEPS
from newburrow.events import Event, Listener
from newburrow.formats.base import Refused, Writer
from newburrow.journal import Fate, Settled
from newburrow.model import Bundle, Comment, Entry, Media, Site
from newburrow.problem import Problem, Severity

log = logging.getLogger(__name__)


def plan(context: Context, listener: Listener) -> str:
    """Decide where everything goes. Settles what stays behind, and all authors and terms.

    Returns when the newest entry that moves was changed (RFC 3339, UTC); empty where none has a date.
    """
    _twice(context)
    planned = places.plan(context, listener)
    authors.plan(context, planned.authors)
    terms.plan(context, planned.terms)
    context.terms |= terms.made_by_rules(context)
    media.plan(context)
    oldaddresses.plan(context)
    return planned.newest.isoformat().replace("+00:00", "Z") if planned.newest else ""


def write(context: Context, writer: Writer, copy: Callable[[Media, Media], None], listener: Listener) -> None:
    """Take every entry through the steps to the writer, then every file; settle each."""
    total = context.store.count(Entry)
    for done, entry in enumerate(context.store.all(Entry), 1):
        _entry(entry, context, writer)
        if done % 50 == 0 or done == total:
            listener(Event("Converting", done, total))
    for comment in context.store.orphans():
        on_file = context.store.get(Media, comment.entry) is not None
        reason = "it stands on a file, which has no place for comments" if on_file else "its entry is not in the export"
        context.journal.settle(comments.settled(comment, Fate.FAILED, reason))
    _files(context, writer, copy, listener)
    for site in context.store.all(Site):
        moved = Settled("site", site.key, "site", Fate.MOVED, "", site.title, site.address, context.new.address)
        context.journal.settle(moved)
    _say_settings(context)
    _say_extra(context)


def _entry(entry: Entry, context: Context, writer: Writer) -> None:
    place = context.journal.place_of(entry.key)
    theirs = context.store.comments_of(entry)
    if place is None:
        for comment in theirs:
            context.journal.settle(
                comments.settled(comment, Fate.LEFT_OUT, "its entry stays behind", old=entry.permalink)
            )
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
    for problem in problems:
        context.journal.follow_up(problem)
    for comment in bundle.comments:
        context.journal.settle(comments.settled(comment, Fate.MOVED, "", place.new, entry.permalink))
    context.journal.settle(places.settle_entry(entry, Fate.MOVED, new=place.new))


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
        if not context.journal.is_settled("media", record.key):
            new = context.new_media(record.key)
            assert new is not None
            copy(record, new)
            try:
                for problem in writer.media(new):
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


def _say_settings(context: Context) -> None:
    """Settings of the site that no import carries."""
    if context.old.zone:
        problem = Problem(
            Severity.INFO,
            "site-settings",
            f"The old site told its dates in the time zone {context.old.zone}.",
            "Set the same time zone on the new host before the import.",
            object="site",
            key=context.old.key,
        )
        context.journal.follow_up(problem)


def _say_extra(context: Context) -> None:
    """What the model has no place for is in the store; here it is listed, a line for each name."""
    for name, found, example in context.store.extras():
        space, _, local = name.rpartition("}")
        shown = f"{local} ({space[1:]})" if space else local
        context.journal.follow_up(
            Problem(
                Severity.INFO,
                "unread-element",
                f"{found:,} object(s) have {shown}, which has no place in the content model; for example: {example}",
                "Its values are kept in content.sqlite. If it matters, name it in [[entry.fields]] of the dialect.",
                object="site",
                key=context.old.key,
            )
        )
