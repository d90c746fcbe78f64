"""The administrator's decisions, as they are in the move folder: `move.toml` and its tables."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from msgspec import Meta, Struct

from newburrow.decide.condition import Condition
from newburrow.model.comment import COMMENT_STATES
from newburrow.model.entry import ENTRY_KINDS, ENTRY_STATES

Count = Annotated[int, Meta(ge=1)]


class OldChoice(Struct, frozen=True, forbid_unknown_fields=True):
    """The old site: what was handed in."""

    paths: list[str]
    dialect: str | list[str] = ""  # empty: recognised; a list has one for each path
    address: str = ""  # of the old site, for exports that do not state it
    content: tuple[
        str, ...
    ] = ()  # patterns of files that are content, though among uploaded ones
    limits: tuple[
        str, ...
    ] = ()  # what reading may cost, where that is more than usual: "unpacked=20GB"
    # files with old addresses: redirects, a sitemap, a list, a log of visits
    known: tuple[str, ...] = ()


class NewChoice(Struct, frozen=True, forbid_unknown_fields=True):
    """The new site."""

    host: str
    address: str  # where it will be, with scheme and host
    holds: tuple[str, ...] = ()  # what is there already: its own export, or a list of addresses
    already_there: Literal["skip", "update"] = "skip"  # an entry that is


class Selection(Struct, frozen=True, forbid_unknown_fields=True):
    """What moves."""

    kinds: tuple[str, ...] = ENTRY_KINDS
    states: tuple[str, ...] = tuple(state for state in ENTRY_STATES if state != "removed")
    comment_states: tuple[str, ...] = tuple(
        state for state in COMMENT_STATES if state in ("approved", "pending")
    )
    preset_content: Literal["leave-out", "move"] = "leave-out"
    # which questions of quizzes move: keys, or "QUIZ, NUMBER" as in the ledger; empty: all
    questions: tuple[str, ...] = ()
    # which of those move; an empty condition matches everything
    only: Condition = Condition()
    leave: list[Condition] = []  # which of those are left out
    # the parents of what `only` selects
    parents: Literal["move", "leave-out"] = "move"


class TreeChoice(Struct, frozen=True, forbid_unknown_fields=True):
    """What becomes of a tree of pages on a host without one."""

    # where the pages above a page are named: nowhere, in its slug, or in its title
    flat: Literal["drop", "slug", "title"] = "drop"


class DateChoice(Struct, frozen=True, forbid_unknown_fields=True):
    """What becomes of dates."""

    shift_hours: float = 0.0
    zone: str = ""  # IANA name of the zone for dates; empty leaves each date in its own zone
    latest: date | None = None  # what is published later than this is reported


class AuthorRules(Struct, frozen=True, forbid_unknown_fields=True):
    """What holds for all authors, besides `authors.csv`."""

    of_unsigned: str = ""  # the name for entries without an author


class TermRules(Struct, frozen=True, forbid_unknown_fields=True):
    """What holds for all terms, besides `terms.csv`."""

    # the name of a nested term if the host does not nest terms
    nested_names: Literal["last", "path"] = "last"
    # a character at which a name is split into nested terms
    split_names_at: str = ""
    # what a page of a wiki becomes that is about a category
    category_pages: Literal["pages", "terms"] = "pages"


class CommentRules(Struct, frozen=True, forbid_unknown_fields=True):
    """Where comments go that the host has no place for."""

    without_place: Literal["data-file", "closing-section", "leave-out"] = "data-file"
    # what pages become that talk about another page of a wiki
    discussion_pages: Literal["pages", "comments"] = "pages"
    pingbacks: Literal["keep", "data-file", "leave-out"] = "keep"  # also trackbacks


class QuizChoice(Struct, frozen=True, forbid_unknown_fields=True):
    """What becomes of quizzes."""

    # on a host without quizzes: whether the answers stand at the end of the page with the questions
    answers: Literal["hidden", "at-end"] = "hidden"
    draws: Literal["keep", "write-out"] = "keep"  # questions drawn at random


class MediaChoice(Struct, frozen=True, forbid_unknown_fields=True):
    """Which files move."""

    # shown: what an entry that moves shows or links to; content: that, and all that is no part of software
    files: Literal["content", "shown", "all"] = "content"


class FieldChoice(Struct, frozen=True, forbid_unknown_fields=True):
    """What becomes of one field. `title`, `summary` and `language` of an entry go by `entry.title`, ..."""

    old: str = ""  # its old name; empty for a field that only the new host has
    new: str = ""  # empty: the old name; "-" leaves the field out
    # empty: the type in the host profile
    type: Literal["", "text", "integer", "number", "yes-no", "date", "address"] = ""
    default: str = ""
    required: bool = False
    values: dict[str, str] = {}  # old value -> new value


class IdChoice(Struct, frozen=True, forbid_unknown_fields=True):
    """What becomes of ids, within what the host allows."""

    renumber: tuple[Literal["entry", "comment", "media"], ...] = ()


class Redirects(Struct, frozen=True, forbid_unknown_fields=True):
    """What the redirects are written for."""

    servers: tuple[str, ...] = ("nginx",)
    # 301 and 308 last, 302 and 307 are for a first try (RFC 9110 section 15.4)
    status: Literal[301, 302, 307, 308] = 301
    # whether the query of a visitor goes along to the new address, where the old one is known by its path alone
    queries: Literal["keep", "drop"] = "keep"
    # rules and single addresses that a server takes; the rest is listed
    most: Count | None = None
    # What the files are for: the old server, the new one (for what an old domain that is sent there as a whole brings),
    # and sending that domain.
    places: tuple[Literal["old-server", "new-server", "whole-domain"], ...] = (
        "old-server",
        "whole-domain",
    )
    # What readers find at the old address of what is left out, and of what is left out only because something else
    # was chosen (choose.only): `gone` (410), `stays` (the old server answers on), or the address of a site that has it.
    left_out: str = "gone"
    not_chosen: str = "stays"


class Change(Struct, frozen=True, forbid_unknown_fields=True):
    """What a rule sets. What is not said stays.

    In `title`, `add_terms` and `fields` a name in braces is the value of that field of the entry, or of a fact of it:
    `{soil}`, `{entry.title}`. What names a field that an entry lacks is not set there.
    """

    kind: str = ""
    state: str = ""
    author: str = ""  # key, login, name or e-mail address of one of the export
    title: str = ""
    add_terms: tuple[str, ...] = ()  # "category/Cider"; a word alone is a tag
    drop_terms: tuple[str, ...] = ()  # key, slug or name
    fields: dict[str, str] = {}  # fields by name; an empty value removes the field


class Rule(Struct, frozen=True, forbid_unknown_fields=True):
    """One rule: where all of `when` holds, `set` is done."""

    when: Condition = Condition()
    set: Change = Change()
    about: str = ""  # for the person who reads it


class CutOver(Struct, frozen=True, forbid_unknown_fields=True):
    """When the sites change over."""

    day: date | None = None  # the steps in cut-over.csv get dates by it


class Decisions(Struct, frozen=True, forbid_unknown_fields=True):
    """The whole of `move.toml`."""

    old: OldChoice
    new: NewChoice
    choose: Selection = Selection()
    kinds: dict[str, str] = {}  # kind -> the host's kind that it becomes
    states: dict[str, str] = {}  # state -> what it becomes
    vocabularies: dict[str, str] = {}  # vocabulary -> the host's that its terms go into
    addresses: dict[str, str] = {}  # kind on the new host -> permalink pattern
    tree: TreeChoice = TreeChoice()
    dates: DateChoice = DateChoice()
    authors: AuthorRules = AuthorRules()
    terms: TermRules = TermRules()
    comments: CommentRules = CommentRules()
    quizzes: QuizChoice = QuizChoice()
    media: MediaChoice = MediaChoice()
    fields: list[FieldChoice] = []
    ids: IdChoice = IdChoice()
    redirects: Redirects = Redirects()
    cut_over: CutOver = CutOver()
    rules: list[Rule] = []


class AuthorChoice(Struct, frozen=True):
    """One row of `authors.csv`."""

    action: str = "keep"  # or `create`, `assign`
    new_name: str = ""  # the author of the entries on the new host; empty keeps the old name


class TermChoice(Struct, frozen=True):
    """One row of `terms.csv`."""

    action: str = "keep"  # or `rename`, `merge`, `page`, `drop`
    new_name: str = ""  # of `merge`: the key or name of the term that it becomes
    new_vocabulary: str = ""  # empty: its own
    new_parent: str = ""  # key or name of a term; "-" for none; empty: its own
