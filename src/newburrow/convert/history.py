"""The history of pages: handed to a writer that takes it, state after state; else each state is settled as left out."""

from __future__ import annotations

import sys
from collections import Counter
from typing import Any

from msgspec.structs import replace

from newburrow.convert.became import became_of
from newburrow.convert.context import Context
from newburrow.convert.step.bodies import written_body
from newburrow.core.problem import Problem
from newburrow.formats.base import HistoryWriter, Refused, Writer
from newburrow.model import Entry, Revision
from newburrow.store.journal.rows import Fate, LedgerRow, Place

# What is said of the page as it is now; of earlier states it would be said again and again.
_SAID_ONCE = (
    "dead-link",
    "link-to-left-out",
    "missing-picture",
    "red-link",
    "section-lost",
    "structure-changed",
    "no-alternative-text",
)


def write(context: Context, writer: Writer) -> None:
    """Settle every revision. `writer` gets those of pages that moved, if the host's profile takes history."""
    for key in context.store.with_history():
        entry, place = context.store.get(Entry, key), context.journal.plan.get(key)
        if entry is None:
            _settle_all(key, None, Fate.FAILED, "its page is not in the export", context)
        elif place is None:
            _settle_all(key, entry, Fate.LEFT_OUT, "its page is left out", context)
        elif place.existing:
            became = became_of(entry, context)
            reason = "its page is on the new host already and is skipped"
            if became:
                reason = became.of_parts
            _settle_all(key, entry, Fate.LEFT_OUT, reason, context)
        elif not context.host.history.taken:
            _settle_all(key, entry, Fate.LEFT_OUT, _no_history(key, context), context)
        elif not context.planning.ledger.has_moved("entry", key):
            _settle_all(key, entry, Fate.FAILED, "its page failed", context)
        else:
            _write_page(entry, place, context, writer)


def _no_history(key: str, context: Context) -> str:
    number = context.store.revision_count(key)
    if number == 1:
        return "the new host keeps no history (1 earlier version of this page)"
    return f"the new host keeps no history ({number:,} earlier versions of this page)"


def _settle_all(
    key: str, entry: Entry | None, fate: Fate, reason: str, context: Context
) -> None:
    for revision in context.store.revisions_of(key):
        context.planning.ledger.add(_row(revision, entry, fate, reason))


def _row(
    revision: Revision, entry: Entry | None, fate: Fate, reason: str = "", new: str = ""
) -> LedgerRow:
    title, old = revision.title or revision.entry, ""
    if entry is not None:
        title, old = revision.title or entry.title, entry.permalink
    if revision.number:
        title = f"{title}, version {revision.number}"
    return LedgerRow("revision", revision.key, "revision", fate, reason, title, old, new)


def _write_page(entry: Entry, place: Place, context: Context, writer: Writer) -> None:
    """Hand the history of one page over, state after state."""
    assert isinstance(writer, HistoryWriter)
    said: Counter[str] = Counter()
    most = context.host.history.most or sys.maxsize
    surplus = max(0, context.store.revision_count(entry.key) - most)
    for number, revision in enumerate(context.store.revisions_of(entry.key)):
        if number < surplus:
            reason = f"the new host keeps the last {most:,} versions of a page"
            context.planning.ledger.add(_row(revision, entry, Fate.LEFT_OUT, reason))
            continue
        made = _converted(revision, entry, context, said)
        try:
            problems = list(writer.revision(made, place.new))
        except Refused as refused:
            context.planning.ledger.add(_row(revision, entry, Fate.FAILED, refused.reason))
            continue
        context.planning.handed.add_version(place.new, made)
        context.journal.follow_ups.add(*problems)
        context.planning.ledger.add(_row(revision, entry, Fate.MOVED, new=place.new))
    for message, times in said.items():
        problem = Problem.about(entry, "history-changed", f"{times:,} times", what=message)
        context.journal.follow_ups.add(problem)


def _converted(
    revision: Revision, entry: Entry, context: Context, said: Counter[str]
) -> Revision:
    """A revision with its text as the new host takes it, and the name of its author."""

    def say(code: str, **facts: Any) -> None:
        facts.pop("detail", "")
        if code not in _SAID_ONCE:
            said[Problem.about(entry, code, **facts).message] += 1

    author = context.authors.get(revision.author)
    return replace(
        revision,
        author=author.name if author else revision.author,
        body=written_body(revision.body, entry.permalink, context, say),
    )
