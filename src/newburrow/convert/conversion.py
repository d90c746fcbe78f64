"""One entry taken through the steps, with all that is to be written down of it."""

from __future__ import annotations

import logging
from collections.abc import Iterator

from msgspec.structs import replace

from newburrow.convert import choice, discussion, pool, walk
from newburrow.convert.became import became_of
from newburrow.convert.body import comment_place
from newburrow.convert.context import Context
from newburrow.convert.converted import Converted
from newburrow.convert.plan.entry_place import settle_entry
from newburrow.convert.quiz import sides
from newburrow.convert.step import comments, questions
from newburrow.convert.step.order import STEPS
from newburrow.core.problem import Problem
from newburrow.decide.comment_choice import reason_to_leave_comment
from newburrow.model import Comment, Entry, Question
from newburrow.model.bundle import Bundle
from newburrow.store.journal.existing_keys import comment_key
from newburrow.store.journal.reader import JournalReader
from newburrow.store.journal.rows import Fate, LedgerRow, Place

log = logging.getLogger(__name__)


Numbered = tuple[int, Question]  # a question with its number in its quiz, counted from 1


def convert(number: int, entry: Entry, context: Context, journal: JournalReader) -> Converted:
    """Take one entry through the steps of the conversion.

    `number` is its number in the store. Gives the bundle for the writer, or none for an entry that
    does not move, with the notes (fates, follow-ups) for the first process to write down. A crash in a
    step does not end the run: the entry fails, with the step and the error as its reason.
    """
    context.tally.clear()
    theirs = context.store.comments_of(entry)
    asked = list(enumerate(_questions(entry, context), 1))
    place = journal.plan.at(number)
    chosen = [pair for pair in asked if questions.is_chosen(*pair, entry, context)]
    bundle = _bundle(
        entry, place, theirs, chosen if place and place.new else asked, context, journal
    )
    if bundle:
        left = [pair for pair in asked if pair not in chosen]
        why = "is not among those chosen (move.toml, choose.questions)"
        journal.ledger.add(*_question_rows(entry, left, Fate.LEFT_OUT, why))
        rows = _rows(entry, theirs, bundle, context)
        if asked or entry.quiz:
            shown = [
                sides.sides(entry.title, [question for _number, question in chosen], bundle)
            ]
        else:
            shown = []
        if shown:
            rows[-1] = replace(rows[-1], reason=shown[0].sentence)
        rows[-1:-1] = _question_rows(entry, chosen, Fate.MOVED, "", bundle.new_address)
    else:
        rows, shown = [], []
    notes = journal.take_notes()
    notes.quizzes += shown
    if bundle:
        notes.walked = walk.links_of_moved(entry, notes)
    else:
        notes.walked = walk.links_of_left_out(entry, context)
        journal.take_notes()  # what was met on the way is of no page that moves
    return Converted(entry.key, bundle, notes, rows, dict(context.tally))


def _bundle(
    entry: Entry,
    place: Place | None,
    theirs: list[Comment],
    asked: list[Numbered],
    context: Context,
    journal: JournalReader,
) -> Bundle | None:
    if place is None:
        context.journal.ledger.add(
            *_question_rows(entry, asked, Fate.LEFT_OUT, "its quiz is left out")
        )
        rows = [
            comments.settled(
                comment, Fate.LEFT_OUT, "its entry is left out", old=entry.permalink
            )
            for comment in theirs
        ]
        context.journal.ledger.add(*rows)
        return None
    became = became_of(entry, context) if place.existing else None
    if became:
        context.journal.ledger.add(settle_entry(entry, Fate.MERGED, became.why, place.new))
        left = [
            comments.settled(comment, Fate.LEFT_OUT, became.of_parts, old=entry.permalink)
            for comment in theirs
        ]
        context.journal.ledger.add(*left)
        return None
    if place.existing:
        there = "its quiz is on the new host already"
        context.journal.ledger.add(*_question_rows(entry, asked, Fate.MERGED, there, place.new))
        _already_there(entry, theirs, place.new, context)
        return None
    bundle = Bundle(
        context.decided(entry),
        comments=(*theirs, *_said_on_pages(entry, context)),
        questions=tuple(question for _number, question in asked),
        new_address=place.new,
    )
    problems: list[Problem] = []
    for step_name, step in STEPS:
        try:
            bundle, found = step(bundle, context)
        except (KeyboardInterrupt, SystemExit):
            raise
        except BaseException as error:  # a native library may end with one that is no Exception
            _crashed(entry, theirs, step_name, error, journal)
            journal.ledger.add(*_question_rows(entry, asked, Fate.FAILED, "its quiz failed"))
            return None
        problems += found
    context.journal.follow_ups.add(*problems)
    return bundle


def _said_on_pages(entry: Entry, context: Context) -> list[Comment]:
    """What a page that talks about an entry says, as a comment, if that page moves."""
    talk = discussion.page_about(entry, context)
    if talk is None or choice.reason_to_leave(talk, context):
        return []
    return [discussion.comment(entry, talk, context)]


def _rows(
    entry: Entry, theirs: list[Comment], bundle: Bundle, context: Context
) -> list[LedgerRow]:
    """The rows of the ledger for an entry that is written, and for its comments."""
    new = bundle.new_address
    rows = []
    for comment in theirs:
        if not reason_to_leave_comment(comment, context.decisions, context.host):
            reason = comment_place.REASONS.get(comment_place.where(comment, context), "")
            rows.append(comments.settled(comment, Fate.MOVED, reason, new, entry.permalink))
    for comment in bundle.set_apart:
        if comment_place.where(comment, context) == comment_place.FILE:
            context.journal.data_lines.add(comment_place.line(comment, new))
    return [*rows, settle_entry(entry, Fate.MOVED, new=new)]


def _questions(entry: Entry, context: Context) -> list[Question]:
    """The questions of a quiz or a question bank; any other entry has none."""
    if entry.kind in questions.QUIZ_KINDS:
        return context.store.questions_of(entry.key)
    return []


def _question_rows(
    quiz: Entry, asked: list[Numbered], fate: Fate, reason: str, new: str = ""
) -> list[LedgerRow]:
    """The rows of the ledger for the questions of a quiz or a question bank."""
    return [
        questions.settled(question, quiz, number, fate, reason, new)
        for number, question in asked
    ]


def _already_there(entry: Entry, theirs: list[Comment], there: str, context: Context) -> None:
    """An entry that the new host has already is not created again; comments that it lacks are reported."""
    journal, old = context.journal, entry.permalink
    journal.ledger.add(settle_entry(entry, Fate.MERGED, "is on the new host already", there))
    lacking = 0
    for comment in theirs:
        if journal.existing.has("comment", comment_key(comment, there)):
            row = comments.settled(
                comment, Fate.MERGED, "is on the new host already", there, old
            )
        else:
            why = reason_to_leave_comment(comment, context.decisions, context.host)
            lacking += not why
            why = (
                why
                or "its entry is on the new host already and is skipped (move.toml, new.already_there)"
            )
            row = comments.settled(comment, Fate.LEFT_OUT, why, "", old)
        journal.ledger.add(row)
    if lacking:
        journal.follow_ups.add(Problem.about(entry, "comments-skipped", number=lacking))


def _crashed(
    entry: Entry,
    theirs: list[Comment],
    step_name: str,
    error: BaseException,
    journal: JournalReader,
) -> None:
    """A fault of ours in one entry is a failure of that entry, not of the whole run."""
    log.error("entry %s failed while trying to %s", entry.key, step_name, exc_info=error)
    reason = (
        f"a fault in New Burrow while trying to {step_name}: {type(error).__name__}: {error}"
    )
    settled_keys = {row.key for row in journal.notes.ledger}
    rows = [
        comments.settled(comment, Fate.FAILED, "its entry failed", old=entry.permalink)
        for comment in theirs
    ]
    journal.ledger.add(
        settle_entry(entry, Fate.FAILED, reason),
        *(row for row in rows if row.key not in settled_keys),
    )
    journal.follow_ups.add(Problem.about(entry, "fault", reason=reason))


def converted(context: Context, jobs: int) -> Iterator[Converted]:
    """Every entry of the store that moves, after all steps, in the order of the plan.

    Shared among `jobs` processes; the order and the bytes do not depend on their number. An entry in which
    a step crashes is settled as failed, with the reason, and the others go on.
    """
    return pool.each(context, convert, Converted, jobs)
