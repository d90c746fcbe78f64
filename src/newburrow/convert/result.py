"""The result of a conversion: entries and files are handed to the writer, and the fate of each is noted."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator

from msgspec.structs import replace

from newburrow.convert import history, term_page_bundles
from newburrow.convert.context import Context
from newburrow.convert.converted import Converted
from newburrow.convert.plan import media, site_settings, to_do_there
from newburrow.convert.step import comments, ids, questions
from newburrow.core.problem import NOWHERE, Problem
from newburrow.core.progress import Event, Listener
from newburrow.formats.base import Refused, Writer
from newburrow.model import Entry, Media, Record, Site
from newburrow.model.record_types import RecordType, all_types, kind_of, name_of
from newburrow.store.journal.reader import JournalNotes
from newburrow.store.journal.rows import Fate, LedgerRow

_TOGETHER = 50  # entries whose notes are written at a time

Copy = Callable[[Media, Media], None]  # takes a file as it was read, and as it will be


def write(
    context: Context,
    converted: Iterable[Converted],
    writer: Writer,
    copy: Copy,
    listener: Listener,
) -> None:
    """Hand every entry to the writer, then every file, and settle every record.

    `converted` has the entries of the store in their order. `copy` copies one file from the export into
    the result. An entry that the writer refuses fails, with its comments. Comments without an entry and
    types of records that nothing moves are settled at the end.
    """
    _write_entries(context, converted, writer, listener)
    context.planning.urls.set_late()
    for bundle, problems in term_page_bundles.bundles(context):
        key, bundle = bundle.entry.key, ids.step(bundle, context)[0]
        problems_of_writer = writer.entry(bundle)
        context.planning.handed.add(key, bundle.new_address, bundle)
        context.journal.follow_ups.add(*problems, *problems_of_writer)
    history.write(context, writer)
    _settle_orphans(context)
    _settle_questions_apart(context)
    _write_files(context, writer, copy, listener)
    for site in context.store.all(Site):
        row = LedgerRow(
            "site",
            site.key,
            "site",
            Fate.MOVED,
            title=site.title,
            old=site.address,
            new=context.new.address,
        )
        context.journal.ledger.add(row)
    for record_type in all_types():
        if not record_type.planned:
            _settle_unplanned(record_type, context)
    site_settings.say(context)
    to_do_there.say(context)


def _write_entries(
    context: Context, converted: Iterable[Converted], writer: Writer, listener: Listener
) -> None:
    total, notes = context.store.count(Entry), JournalNotes()
    for done, entry in enumerate(converted, 1):
        notes.add(_hand_over(entry, context, writer))
        if done % _TOGETHER == 0 or done == total:
            notes.write(context.planning)
            notes = JournalNotes()
            listener(Event("Converting", done, total))


def _hand_over(entry: Converted, context: Context, writer: Writer) -> JournalNotes:
    """Hand an entry to the writer; gives what became of it.

    An entry that the writer refuses has failed, and its comments with it.
    """
    context.tally.update(entry.tally)
    if entry.bundle is None:
        return entry.notes
    try:
        problems = list(writer.entry(entry.bundle))
    except Refused as refused:
        return _not_written(entry, refused)
    context.planning.handed.add(entry.key, entry.bundle.new_address, entry.bundle)
    # What writers say is about the entry under its new id; the journal has it under its key.
    new_key = entry.bundle.entry.key
    for problem in problems:
        if problem.key == new_key:
            problem = replace(problem, key=entry.key)
        entry.notes.follow_ups.append(problem)
    entry.notes.ledger += entry.if_written
    return entry.notes


def _not_written(entry: Converted, refused: Refused) -> JournalNotes:
    assert entry.bundle is not None
    *comment_rows, entry_row = entry.if_written
    rows = [
        replace(row, fate=Fate.FAILED, reason="its entry failed", new="")
        for row in comment_rows
    ]
    rows.append(replace(entry_row, fate=Fate.FAILED, reason=refused.reason, new=""))
    problem = replace(
        Problem.about(
            entry.bundle.entry,
            "not-written",
            object="The entry",
            reason=refused.reason,
            advice=refused.advice,
        ),
        key=entry.key,
    )
    return JournalNotes(ledger=[*entry.notes.ledger, *rows], follow_ups=[problem])


def _settle_orphans(context: Context) -> None:
    """Comments that belong to no entry of the export fail."""
    for comment in context.store.orphans():
        reason = "its entry is not in the export"
        if context.store.get(Media, comment.entry) is not None:
            reason = "it is on a file, and files have no comments on the new host"
        context.journal.ledger.add(comments.settled(comment, Fate.FAILED, reason))
        context.journal.follow_ups.add(
            Problem.about(
                comment,
                "comment-apart",
                author=comment.author_name or "somebody",
                reason=reason,
            )
        )


def _settle_questions_apart(context: Context) -> None:
    """Questions that belong to no quiz or question bank of the export fail."""
    for question in context.store.questions_apart():
        reason = "its quiz is not in the export"
        quiz = Entry(key=question.entry)
        row = questions.settled(question, quiz, question.position or 0, Fate.FAILED, reason)
        context.journal.ledger.add(row)
        context.journal.follow_ups.add(Problem.about(question, "question-apart", reason=reason))


def _write_files(context: Context, writer: Writer, copy: Copy, listener: Listener) -> None:
    total = context.store.count(Media)
    for done, record in enumerate(context.store.all(Media), 1):
        settled = context.planning.ledger.has("media", record.key)
        if not settled and not media.leave_unshown(context, record):
            _write_file(record, context, writer, copy)
        if done % 20 == 0 or done == total:
            listener(Event("Copying files", done, total, "files"))


def _write_file(record: Media, context: Context, writer: Writer, copy: Copy) -> None:
    new = context.new_media(record.key)
    assert new is not None
    copy(record, new)
    try:
        handed = ids.of_media(new, context)
        context.journal.follow_ups.add(*writer.media(handed))
        context.planning.handed.add_file(record.key, handed.path, handed)
        context.journal.ledger.add(media.moved(record, new))
    except Refused as refused:
        problem = Problem.about(
            record,
            "not-written",
            object="The record of the file",
            reason=refused.reason,
            advice=refused.advice,
        )
        context.journal.ledger.add(media.failed(record, refused.reason))
        context.journal.follow_ups.add(problem)


def _settle_unplanned(record_type: RecordType, context: Context) -> None:
    """Records of a type that no step moves: each fails, and one follow-up says so for all of a kind."""
    found: Counter[str] = Counter()
    reason = f"New Burrow cannot write {record_type.plural} yet"
    for row in _unplanned_rows(context.store.all(record_type.record), record_type, reason):
        context.journal.ledger.add(row)
        found[row.kind] += 1
    for kind, number in sorted(found.items()):
        problem = Problem.at(NOWHERE, "type-not-moved", number=number, kind=kind, reason=reason)
        context.journal.follow_ups.add(problem)


def _unplanned_rows(
    records: Iterable[Record], record_type: RecordType, reason: str
) -> Iterator[LedgerRow]:
    for record in records:
        yield LedgerRow(
            record_type.table,
            record.key,
            kind_of(record),
            Fate.FAILED,
            reason,
            name_of(record),
            getattr(record, "permalink", ""),
        )
