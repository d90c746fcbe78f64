"""What a host profile says: the new host's content model, addresses, accepted markup, and limits.

These types are the keys of a profile file (`docs/hosts.md` explains them to people).
"""

from __future__ import annotations

from typing import Annotated, Any

from msgspec import Meta, Struct

Pattern = str  # RFC 6570, relative to the new site
Count = Annotated[int, Meta(ge=1)]
NonEmpty = Annotated[str, Meta(min_length=1)]


class Kind(Struct, frozen=True, forbid_unknown_fields=True):
    """One kind of entry that the host has."""

    address: Pattern  # of {slug}, {year}, {month}, {day}, {id}
    parents: bool = False  # whether one may stand under another
    positions: bool = False  # whether they have an order of their own
    takes: tuple[str, ...] = ()  # kinds of the content model that become this one


class States(Struct, frozen=True, forbid_unknown_fields=True):
    """Which states an entry can be in, and what others become."""

    takes: tuple[str, ...] = ("published", "draft")
    otherwise: str = "draft"


class Terms(Struct, frozen=True, forbid_unknown_fields=True):
    """The vocabularies, and the one that all terms of others go into."""

    name: str = "tag"
    vocabularies: tuple[str, ...] = ()  # that are kept apart; "*" keeps each
    nested: bool = False  # whether a term can stand under another
    address: Pattern = ""  # of {slug}: where a term's archive stands; empty where there is none
    descriptions: bool = False


class Authors(Struct, frozen=True, forbid_unknown_fields=True):
    """What is kept of an author."""

    address: Pattern = ""  # of {slug}: where an author's archive stands; empty where there is none
    profiles: bool = False  # whether there is a place for a text about them


class Comments(Struct, frozen=True, forbid_unknown_fields=True):
    """Which comments the host takes."""

    states: tuple[str, ...] = ("approved", "pending")
    kinds: tuple[str, ...] = ("comment", "pingback", "trackback")
    markup: str = ""  # of their bodies, where it is another than that of entries


class MediaRules(Struct, frozen=True, forbid_unknown_fields=True):
    """Where files go, and whether a picture can stand for an entry."""

    address: Pattern = "/media/{name}"
    folder: str = "media"  # where they lie in what is handed over
    lead_picture: bool = False


class MarkupRules(Struct, frozen=True, forbid_unknown_fields=True):
    """What a body may hold."""

    name: str = "html"
    elements: tuple[str, ...] = ()  # allowed; empty allows all but scripts


class Slugs(Struct, frozen=True, forbid_unknown_fields=True):
    """What a slug may be."""

    longest: Count = 80  # characters
    letters: Annotated[str, Meta(pattern="^(ascii|unicode)$")] = "ascii"
    reserved: tuple[str, ...] = ()


class Limits(Struct, frozen=True, forbid_unknown_fields=True):
    """How much the host takes."""

    entries: Count | None = None
    file_bytes: Count | None = None  # of one file of the import; more goes into several


class SiteRules(Struct, frozen=True, forbid_unknown_fields=True):
    """Addresses of the site as a whole."""

    feed: str = ""  # relative to the new site


class Profile(Struct, frozen=True, forbid_unknown_fields=True):
    """One host, as a target."""

    name: NonEmpty
    format: NonEmpty  # of the import, as registered in `newburrow.formats`
    kinds: dict[str, Kind]  # the host's name for a kind -> what it is
    title: str = ""
    about: str = ""
    site: SiteRules = SiteRules()
    states: States = States()
    terms: Terms = Terms()
    authors: Authors = Authors()
    comments: Comments = Comments()
    media: MediaRules = MediaRules()
    markup: MarkupRules = MarkupRules()
    slugs: Slugs = Slugs()
    limits: Limits = Limits()
    write: dict[str, Any] = {}  # options of the format's writer

    def vocabulary_for(self, theirs: str) -> str:
        """The vocabulary that terms of another one go into."""
        kept = self.terms.vocabularies
        return theirs if theirs in kept or "*" in kept else self.terms.name

    def kind_for(self, kind: str) -> str:
        """The host's kind that takes a kind of the content model; empty where none does."""
        if kind in self.kinds:
            return kind
        return next((name for name, rules in self.kinds.items() if kind in rules.takes), "")
