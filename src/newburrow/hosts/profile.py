"""What a host profile says: the new host's content model, addresses, accepted markup, and limits.

These types are the keys of a profile file (`docs/hosts.md` explains them to people).
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from msgspec import Meta, Struct

Pattern = str  # RFC 6570, relative to the new site
Count = Annotated[int, Meta(ge=1)]
NonEmpty = Annotated[str, Meta(min_length=1)]


class FieldRule(Struct, frozen=True, forbid_unknown_fields=True):
    """A named field that a kind has on the host."""

    type: Literal["text", "integer", "number", "yes-no", "date", "address"] = "text"
    required: bool = False
    default: str = ""
    values: tuple[str, ...] = ()  # it can have; empty for any


class Kind(Struct, frozen=True, forbid_unknown_fields=True):
    """One kind of entry that the host has."""

    address: Pattern  # of {slug}, {year}, {month}, {day}, {id}
    also: tuple[Pattern, ...] = ()  # other patterns that it can have; "*" allows any
    parents: bool = False  # whether one may be under another
    positions: bool = False  # whether they have an order of their own
    takes: tuple[str, ...] = ()  # kinds of the content model that become this one
    fields: dict[str, FieldRule] = {}  # that it has by name
    other_fields: bool = True  # whether fields of any other name have a place


class States(Struct, frozen=True, forbid_unknown_fields=True):
    """Which states an entry can be in, and what others become."""

    takes: tuple[str, ...] = ("published", "draft")
    otherwise: str = "draft"


class Terms(Struct, frozen=True, forbid_unknown_fields=True):
    """The vocabularies, and the one that all terms of others go into."""

    name: str = "tag"
    vocabularies: tuple[str, ...] = ()  # vocabularies that are kept apart; "*" keeps all
    nested: bool = False  # whether a term can be under another
    address: Pattern = ""  # of {slug}: where a term's archive is; empty where there is none
    descriptions: bool = False


class Authors(Struct, frozen=True, forbid_unknown_fields=True):
    """What is kept of an author."""

    # of {slug}: where an author's archive is; empty where there is none
    address: Pattern = ""
    profiles: bool = False  # whether it has a place for a text about an author
    logins: bool = False  # whether it has a place for the name that an author logs in with
    most: Count | None = None  # of one entry


class Comments(Struct, frozen=True, forbid_unknown_fields=True):
    """Which comments the host takes."""

    states: tuple[str, ...] = ("approved", "pending")
    kinds: tuple[str, ...] = ("comment", "pingback", "trackback")
    markup: str = ""  # of their bodies, where it is another than that of entries
    taken: bool = True  # whether it has comments at all
    fragment: str = ""  # the fragment of a comment on its page, without `#`: a pattern of {id}
    # levels of answers: 1 means no answers to comments; None: any depth
    depth: Count | None = None


class History(Struct, frozen=True, forbid_unknown_fields=True):
    """Whether the host keeps what entries said before."""

    taken: bool = False
    most: Count | None = None  # versions of one entry; None: any number


class MediaRules(Struct, frozen=True, forbid_unknown_fields=True):
    """Where files go, and whether a picture can stand for an entry."""

    address: Pattern = "/media/{name}"
    folder: str = "media"  # their folder in the import
    # whether the files of an entry lie in a folder of its own, under the path of its address
    by_entry: bool = False
    lead_picture: bool = False
    lead_shown: bool = False  # whether the page of an entry shows it without the body
    # media types that it accepts, with * for any characters: "image/*"; empty: all
    types: tuple[str, ...] = ()
    file_bytes: Count | None = None  # of one file


class MarkupRules(Struct, frozen=True, forbid_unknown_fields=True):
    """What a body may hold."""

    name: str = "html"
    elements: tuple[str, ...] = ()  # allowed; empty allows all but scripts
    # How a video or frame of another site is written: "frame" (iframe), "address" (its page's address alone in a
    # paragraph), or a text with {address} in it. Empty: a frame where the elements allow it, else a link.
    embed: str = ""
    # whether links to pages of the new site are written by the name of the page, where the markup can say that
    links_by_name: bool = False
    # whether it gives each heading an id made of its words: small letters, hyphens for spaces
    heading_ids: bool = False
    # whether a link to a page that is not there can stay, at the address which that page would have
    missing_pages: bool = False


class QuizRules(Struct, frozen=True, forbid_unknown_fields=True):
    """Which quizzes the host has."""

    # kinds of questions that it takes; empty: it has no quizzes, and their questions are written into pages
    questions: tuple[str, ...] = ()
    # what a quiz can be: quiz, exam, survey; of any other kind it becomes the first
    kinds: tuple[Literal["quiz", "exam", "survey"], ...] = ("quiz", "exam", "survey")
    draws: bool = False  # whether a quiz can draw questions from a bank, or some of its own
    sections: bool = False  # whether a quiz has sections, each with an order of its own
    dates: bool = False  # whether it opens, is due and closes at a date
    gaps: int = 0  # in the text of one question; 0: any number
    rubrics: tuple[
        str, ...
    ] = ()  # kinds of questions with a text for teachers; empty: all that it takes


class Slugs(Struct, frozen=True, forbid_unknown_fields=True):
    """What a slug may be."""

    longest: Count = 80  # characters
    # "name": the title of the page as it is, with spaces, without the signs that no name can have
    letters: Annotated[str, Meta(pattern="^(ascii|unicode|name)$")] = "ascii"
    reserved: tuple[str, ...] = ()
    forbidden: tuple[str, ...] = ()  # patterns with * for any letters


class IdRules(Struct, frozen=True, forbid_unknown_fields=True):
    """Whether an object keeps its id."""

    keep: Literal["any", "numbers", "none"] = "any"  # which ids are kept if they are free


class Limits(Struct, frozen=True, forbid_unknown_fields=True):
    """How much the host takes."""

    entries: Count | None = None
    file_bytes: Count | None = None  # of one file of the import; further ones follow
    upload_bytes: Count | None = None  # of one archive that is handed over; further ones follow
    total_bytes: Count | None = None  # of the whole import
    title: Count | None = None  # characters
    terms_per_entry: Count | None = None


class SiteRules(Struct, frozen=True, forbid_unknown_fields=True):
    """Addresses of the site as a whole."""

    feed: str = ""  # relative to the new site
    # lists of what was published then: of {year}, {month}, {day}
    dates: tuple[Pattern, ...] = ()
    # a further page of a list: {+list} is the address of the list, {page} the number
    further: str = ""
    zone: str = ""  # IANA name of the zone in which it shows dates
    own_pages: tuple[str, ...] = ()  # addresses of what it creates on every new site
    menus: bool = False  # whether the import has a place for menus
    front_page: bool = False  # whether the import says which page is the front page


class Profile(Struct, frozen=True, forbid_unknown_fields=True):
    """One host, as a target."""

    name: NonEmpty
    format: NonEmpty  # of the import, as registered in `newburrow.formats`
    kinds: dict[str, Kind]  # the host's name for a kind -> what it is
    title: str = ""
    about: str = ""
    # in which the result is read back: the name of a dialect, or its file beside this one; empty to recognise it
    dialect: str = ""
    site: SiteRules = SiteRules()
    states: States = States()
    terms: Terms = Terms()
    authors: Authors = Authors()
    comments: Comments = Comments()
    history: History = History()
    media: MediaRules = MediaRules()
    markup: MarkupRules = MarkupRules()
    quizzes: QuizRules = QuizRules()
    slugs: Slugs = Slugs()
    ids: IdRules = IdRules()
    limits: Limits = Limits()
    write: dict[str, Any] = {}  # options of the format's writer

    @property
    def has_tree(self) -> bool:
        """Whether any kind can be under another of its kind."""
        return any(kind.parents for kind in self.kinds.values())

    def vocabulary_for(self, theirs: str) -> str:
        """The vocabulary that terms of another one go into."""
        vocabularies = self.terms.vocabularies
        if theirs in vocabularies or "*" in vocabularies:
            return theirs
        return self.terms.name

    def kind_for(self, kind: str) -> str:
        """The host's kind that takes a kind of the content model; empty where none does."""
        if kind in self.kinds:
            return kind
        return next((name for name, rules in self.kinds.items() if kind in rules.takes), "")
