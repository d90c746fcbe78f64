"""The content model: what a site is made of, whatever host it stands on.

Plain immutable records. This module opens nothing and knows no format and no host. Dates are aware
datetimes; addresses are absolute URLs; a body carries its markup. A key names one object among all of
its type in one move; references (`Entry.parent`, `Comment.entry`, ...) hold keys.
"""

from __future__ import annotations

from datetime import datetime

from msgspec import Struct

ENTRY_KINDS = (
    "post",
    "page",
    "wiki-page",
    "lesson",
    "document",
    "link",
    "discussion",
    "assignment",
)
ENTRY_STATES = ("published", "draft", "scheduled", "private", "removed")
COMMENT_KINDS = ("comment", "pingback", "trackback")
RELATIONS = ("author", "term", "lead_picture", "parent", "field")
COMMENT_STATES = ("approved", "pending", "spam", "removed")

Extra = dict[str, list[str]]


class Where(Struct, frozen=True, omit_defaults=True):
    """A place in an export, precise enough for a person to go there."""

    file: str = ""
    line: int = 0  # counted from 1; 0 is unknown
    column: int = 0  # counted from 1; 0 is unknown

    def __str__(self) -> str:
        parts = [self.file or "?"]
        if self.line:
            parts.append(f"line {self.line}")
        if self.column:
            parts.append(f"column {self.column}")
        return ", ".join(parts)


class Body(Struct, frozen=True, omit_defaults=True):
    """A text with the name of its markup, as registered in `newburrow.markups`."""

    text: str = ""
    markup: str = "html"
    base: str = ""  # address that its relative links are seen from; empty: that of the page it stands on


class Record(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What all records have: a key, where they came from, and what the model has no place for."""

    key: str
    extra: Extra = {}  # name in the export -> its values, kept as text
    source: Where = Where()


class Site(Record, frozen=True, kw_only=True, omit_defaults=True):
    """The site as a whole."""

    title: str = ""
    address: str = ""
    language: str = ""  # BCP 47
    zone: str = ""  # IANA time zone name
    generator: str = ""
    description: str = ""
    dialect: str = ""  # name of the one it was told in
    front_page: str = (
        ""  # key of the entry that is the front page; empty where that is a list of posts
    )
    written: datetime | None = None  # when the export was written, where it says so


class Author(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A person who writes entries."""

    name: str = ""
    login: str = ""
    email: str = ""
    address: str = ""  # of their own site
    about: str = ""


class Term(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A word that entries are filed under: a tag, a category, or one of any other vocabulary."""

    vocabulary: str = "tag"
    slug: str = ""
    name: str = ""
    parent: str = ""  # key of a term
    description: str = ""


class Entry(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A post, a page, or anything else that stands at an address of its own."""

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
    enclosures: tuple[str, ...] = ()  # keys of media that go with it apart from its body
    feeds: tuple[str, ...] = ()  # addresses of feeds about this entry alone
    parent: str = ""  # key of an entry
    position: int | None = None
    language: str = ""  # BCP 47
    fields: dict[str, str] = {}  # named metadata


class Comment(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A reader's answer to an entry or to another comment."""

    entry: str = ""  # key of the entry
    parent: str = ""  # key of the comment that this one answers
    kind: str = "comment"  # one of COMMENT_KINDS
    author_name: str = ""
    email: str = ""
    address: str = ""
    published: datetime | None = None
    status: str = "approved"  # one of COMMENT_STATES
    body: Body = Body()


class Media(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A picture or other file."""

    address: str = ""
    addresses: tuple[str, ...] = ()  # other old addresses
    path: str = ""  # in the export; empty where the export lacks the file
    media_type: str = ""  # RFC 6838
    size: int = 0  # bytes
    digest: str = ""  # SHA-256 of the bytes, hexadecimal
    title: str = ""
    alternative_text: str = ""
    caption: str = ""
    entry: str = ""  # key of the entry it was uploaded to


class MenuItem(Record, frozen=True, kw_only=True, omit_defaults=True):
    """One line of a menu of the site."""

    menu: str = ""  # its name; a site can have several
    label: str = ""
    target: str = ""  # key of an entry, or an address
    parent: str = ""  # key of the item that it stands under
    position: int | None = None


class Mention(Struct, frozen=True):
    """An author, a term or a file that entries name, or a site that is told of before all of it is known.

    It counts only where none of that key is declared. A file also has to be the only one at its address.
    """

    record: Author | Term | Media | Site


class Relation(Struct, frozen=True):
    """That an entry has an author, a term, ..., said by a word that an export uses for it, or in a table of its own.

    What the word means is found out when all is read.
    """

    entry: str  # key of an entry
    of: str  # one of RELATIONS
    word: str  # a key, id, login, slug, name or address; the value of a field
    vocabulary: str = ""  # of a term, where that is known; the name of a field
    source: Where = Where()
    scope: str = ""  # of the export whose words these are, where several are read


class Bundle(Struct, frozen=True):
    """An entry with all that hangs on it, references resolved: what the steps pass on and writers take."""

    entry: Entry
    authors: tuple[Author, ...] = ()
    terms: tuple[Term, ...] = ()
    comments: tuple[Comment, ...] = ()  # parents before their answers
    lead_picture: Media | None = None
    enclosures: tuple[Media, ...] = ()
    new_address: str = ""
    apart: tuple[Comment, ...] = ()  # comments that the new host has no place for


RECORD_TYPES: dict[str, type[Record]] = {
    "site": Site,
    "author": Author,
    "term": Term,
    "media": Media,
    "entry": Entry,
    "comment": Comment,
    "menuitem": MenuItem,
}


Item = Record | Mention | Relation  # what a reader gives, besides problems


def kind_of(record: Record) -> str:
    """The kind under which a record is counted: `post`, `tag`, `pingback`, `author`, ..."""
    if isinstance(record, Entry | Comment):
        return record.kind
    if isinstance(record, Term):
        return record.vocabulary
    if isinstance(record, MenuItem):
        return "menu-item"
    return type(record).__name__.lower()
