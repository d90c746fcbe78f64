"""What `--json` prints, form by form: the shapes that docs/json/ describes, and their version.

A form only ever grows: a member that is taken away or means something else raises JSON_VERSION in `screen`.
"""

from __future__ import annotations

from typing import Annotated, Any

from msgspec import Meta, Struct

from newburrow.commands.shown_object import ShownObject
from newburrow.commands.story import FactChange, Side, Story
from newburrow.commands.try_items import NotWritten, Tried, TriedEntry
from newburrow.core.problem import Problem
from newburrow.formats.exports.file_counts import FileCounts
from newburrow.model import Author, Comment, Entry, Media, Question, Term
from newburrow.model.bundle import Bundle
from newburrow.redirects.followed_address import OUTCOMES, FollowedAddress
from newburrow.report.accounting import Account
from newburrow.report.outcome import Outcome, Walk
from newburrow.verify.difference import Difference
from newburrow.verify.verified import Verified

# A record of the content model, of one of three types.
_RECORD = Meta(
    extra_json_schema={
        "anyOf": [{"$ref": f"#/$defs/{name}"} for name in ("Entry", "Media", "Comment")]
    }
)


class Settled(Struct, frozen=True):
    """Follow-ups that a person has ticked off."""

    done: int
    accepted: int  # as harmless


class MoveForm(Struct, frozen=True):
    """What a move came to."""

    counts: dict[str, Account]  # kind of object -> found, moved, merged, left-out, failed
    files: FileCounts  # files of the sources, by what they were taken for
    redirects: dict[str, int]  # unchanged, redirected, gone -> old addresses
    follow_ups: dict[str, int]  # severity -> number of those that are still to be done
    settled: Settled
    walk: Walk | None
    out: str | None  # the move folder; null for a rehearsal


def of_move(outcome: Outcome) -> MoveForm:
    """The form of a move's outcome."""
    return MoveForm(
        outcome.counts,
        outcome.files,
        outcome.redirects,
        outcome.follow_ups,
        Settled(*outcome.settled),
        outcome.walk,
        str(outcome.out) if outcome.out else None,
    )


class ItemForm(Struct, frozen=True):
    """One object of an export, with what hangs on it."""

    object: str  # what `record` is: entry, media or comment
    record: Annotated[Any, _RECORD]
    authors: list[Author]
    terms: list[Term]
    comments: list[Comment]
    questions: list[Question]  # of a quiz or a question bank
    lead_picture: Media | None
    parent: Entry | None


def of_item(found: ShownObject) -> ItemForm:
    """The form of an object."""
    return ItemForm(
        found.record.table,
        found.record,
        found.authors,
        found.terms,
        found.comments,
        found.questions,
        found.lead_picture,
        found.parent,
    )


class FollowUpForm(Struct, frozen=True):
    """Something that a person must do."""

    code: str
    severity: str
    message: str
    advice: str


class TryForm(Struct, frozen=True):
    """What was written to try it."""

    entries: list[TriedEntry]
    files: int
    not_written: list[NotWritten]
    follow_ups: list[FollowUpForm]
    out: str  # what the new host imports


def of_try(tried: Tried) -> TryForm:
    """The form of a try."""
    return TryForm(
        tried.entries,
        tried.files,
        tried.not_written,
        list(map(_follow_up, tried.follow_ups)),
        str(tried.out),
    )


def _follow_up(problem: Problem) -> FollowUpForm:
    return FollowUpForm(problem.code, problem.severity, problem.message, problem.advice)


class FateForm(Struct, frozen=True):
    """A row of the ledger."""

    object: str
    key: str
    kind: str
    fate: str
    reason: str
    title: str
    old: str
    new: str


class RedirectForm(Struct, frozen=True):
    """The answer to one old address."""

    old: str
    new: str
    status: int
    why: str


class ToDo(Struct, frozen=True):
    """A follow-up about an item."""

    code: str
    what: str
    suggestion: str


class StoryForm(Struct, frozen=True):
    """The story of one item of a move."""

    item: ItemForm
    fates: list[FateForm]
    decided: list[str]  # rules and rows of tables that touched it
    changes: list[FactChange]
    redirects: list[RedirectForm]
    follow_ups: list[ToDo]
    old: Side
    new: Side | None  # null where nothing was written
    new_entry: Bundle | None  # as it was handed to the new host
    log_lines: list[str]  # about it, of the log that --from-log names


def of_story(told: Story) -> StoryForm:
    """The form of a story."""
    fates = [
        FateForm(
            row.object,
            row.key,
            row.kind,
            str(row.fate),
            row.reason,
            row.title,
            row.old,
            row.new,
        )
        for row in told.fates
    ]
    redirects = [RedirectForm(row.old, row.new, row.status, row.why) for row in told.redirects]
    return StoryForm(
        of_item(told.item),
        fates,
        told.decided,
        told.changes,
        redirects,
        [ToDo(*row) for row in told.follow_ups],
        told.old,
        told.new,
        told.new_entry,
        told.log_lines,
    )


class KindCount(Struct, frozen=True):
    """How many objects of a kind were handed to the writer, and are in the result."""

    moved: int
    found: int


class FactCount(Struct, frozen=True):
    """How often one fact differs."""

    fact: str
    count: int


class VerifyForm(Struct, frozen=True):
    """What verifying a move came to."""

    verified: bool  # whether every difference is explained
    entries: int  # that were found in the result
    as_before: int  # those of them of which all is there
    fidelity: float  # the share of what the old bodies held that is in the result, 0 to 1
    counts: dict[str, KindCount]  # by kind of object
    explained: list[FactCount]  # where the ledger or a follow-up says why
    unexplained: list[FactCount]
    first: list[Difference]  # of the unexplained ones


def of_verified(verified: Verified) -> VerifyForm:
    """The form of what was verified."""
    return VerifyForm(
        verified.is_right,
        verified.entries,
        verified.as_before,
        round(verified.fidelity, 6),
        {kind: KindCount(*pair) for kind, pair in verified.counts.items()},
        [FactCount(fact, number) for fact, number in verified.explained.items()],
        [FactCount(fact, number) for fact, number in verified.unexplained.items()],
        verified.first,
    )


class FollowedForm(Struct, frozen=True):
    """Answers of a server that came to the same."""

    count: int
    examples: list[FollowedAddress]


class FollowForm(Struct, frozen=True):
    """What a running server answered."""

    followed: int  # addresses asked for, in all their spellings
    outcomes: dict[str, FollowedForm]  # all of: right, page-not-up, wrong-target, ...


def of_followed(
    counts: dict[str, int], examples: dict[str, list[FollowedAddress]]
) -> FollowForm:
    """The form of what a server answered: how often each outcome was met, and some addresses of each."""
    outcomes = {
        outcome: FollowedForm(counts.get(outcome, 0), examples.get(outcome, []))
        for outcome in OUTCOMES
    }
    return FollowForm(sum(counts.values()), outcomes)


# form -> command with the options that print it, and where its shape is
FORMS = {
    "survey": ("survey --json", "newburrow.assess.survey_facts:Survey"),
    "comparison": ("survey --against --json", "newburrow.commands.compare:Comparison"),
    "item": ("show PATH ITEM --json", f"{__name__}:ItemForm"),
    "story": ("show FOLDER ITEM --json", f"{__name__}:StoryForm"),
    "mend": ("mend --json", "newburrow.cli.small_forms:MendForm"),
    "keep": ("keep --json", "newburrow.cli.small_forms:KeepForm"),
    "draft": ("draft --json", "newburrow.cli.small_forms:DraftForm"),
    "move": ("move --json, demo --json", f"{__name__}:MoveForm"),
    "try": ("move --only --json", f"{__name__}:TryForm"),
    "redirects": ("redirects --json", "newburrow.commands.redirects:Summary"),
    "follow": ("redirects --follow --json", f"{__name__}:FollowForm"),
    "advice": ("redirects --advise --json", "newburrow.commands.advise:PatternAdvice"),
    "verify": ("verify --json", f"{__name__}:VerifyForm"),
    "list": ("hosts --json, dialects --json", "newburrow.cli.small_forms:ListForm"),
}
