"""An entry with everything that belongs to it."""

from __future__ import annotations

from msgspec import Struct

from newburrow.model.author import Author
from newburrow.model.comment import Comment
from newburrow.model.course import Question
from newburrow.model.entry import Entry
from newburrow.model.media import Media
from newburrow.model.term import Term


class Above(Struct, frozen=True):
    """An entry above another in the tree of the new site."""

    title: str
    address: str


class Bundle(Struct, frozen=True):
    """An entry with everything that belongs to it, references resolved.

    Steps pass it on, and writers take it.
    """

    entry: Entry
    authors: tuple[Author, ...] = ()
    terms: tuple[Term, ...] = ()
    comments: tuple[Comment, ...] = ()  # parents before their answers
    questions: tuple[Question, ...] = ()  # of a quiz or a question bank, in their order
    # Key of a bank that a quiz draws from -> keys of its questions, each with its points.
    banks: dict[str, dict[str, float]] = {}
    lead_picture: Media | None = None
    enclosures: tuple[Media, ...] = ()
    new_address: str = ""
    trail: tuple[Above, ...] = ()  # the entries above it, the topmost first
    set_apart: tuple[Comment, ...] = ()  # comments that the new host has no place for
