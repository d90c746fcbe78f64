"""Entries: posts, pages, and whatever else is at an address of its own."""

from __future__ import annotations

from datetime import datetime
from typing import ClassVar

from newburrow.model.quiz import Quiz
from newburrow.model.record import Body, Record

OUTSIDE_SITEMAP = (
    "(outside the sitemap)"  # in `extra`, of a page that the site's own sitemap does not list
)
COPY_OF = "(copy of)"  # in `extra`, of a page that names another of the site as its original: its address

ENTRY_KINDS = (
    "post",
    "page",
    "wiki-page",
    "lesson",
    "document",
    "link",
    "discussion",
    "assignment",
    "module",
    "quiz",
    "question-bank",
)
ENTRY_STATES = ("published", "draft", "scheduled", "private", "removed")


class Entry(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A post, a page, or anything else that is at an address of its own."""

    table: ClassVar[str] = "entry"

    kind: str = "post"  # one of ENTRY_KINDS
    title: str = ""
    slug: str = ""
    permalink: str = ""
    guid: str = ""  # the lasting identifier given by the old host, an IRI where it is one
    addresses: tuple[str, ...] = ()  # other old addresses: by id, earlier ones
    status: str = "published"  # one of ENTRY_STATES
    published: datetime | None = None
    updated: datetime | None = None
    authors: tuple[str, ...] = ()  # keys of authors
    summary: str = ""
    body: Body = Body()
    terms: tuple[str, ...] = ()  # keys of terms
    lead_picture: str = ""  # key or address of a media
    enclosures: tuple[str, ...] = ()  # keys of media that belong to it apart from its body
    feeds: tuple[str, ...] = ()  # addresses of feeds about this entry alone
    parent: str = ""  # key of an entry
    position: int | None = None
    language: str = ""  # BCP 47
    fields: dict[str, str] = {}  # named metadata
    quiz: Quiz | None = None  # what a quiz says besides
