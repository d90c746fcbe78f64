"""What a reader gives besides records: mentions of what may be declared elsewhere, and relations."""

from __future__ import annotations

from msgspec import Struct

from newburrow.model.author import Author
from newburrow.model.media import Media
from newburrow.model.record import Record, Where
from newburrow.model.site import Site
from newburrow.model.term import Term

# `above` is the address or the name that the page above an entry may have: it counts only if there is one.
RELATIONS = (
    "author",
    "term",
    "lead_picture",
    "parent",
    "above",
    "field",
    "comment_author",
    "revision_author",
)


class Mention(Struct, frozen=True):
    """An author, a term or a file that entries name, or a site of which not all is known yet.

    It counts only where no record of that key is declared. A file also has to be the only one at
    its address.
    """

    record: Author | Term | Media | Site


class Relation(Struct, frozen=True):
    """Says that an entry (or a comment) has an author, a term, ..., by a word that the export uses for it.

    What the word means is known only when everything has been read.
    """

    entry: str  # key of an entry; of a comment for `comment_author`, of a revision for `revision_author`
    of: str  # one of RELATIONS
    word: str  # a key, id, login, slug, name or address; the value of a field
    vocabulary: str = ""  # of a term, where that is known; the name of a field
    source: Where = Where()
    scope: str = ""  # of the export that the word is in, where several are read


class LeftOutFile(Struct, frozen=True):
    """A file of the source that is listed there and not read."""

    name: str  # within the source
    reason: str  # completes "it ..."


class KnownPage(Struct, frozen=True):
    """What is known of a page from outside of it; texts as they stand there."""

    published: str = ""
    updated: str = ""
    authors: tuple[str, ...] = ()
    terms: tuple[str, ...] = ()
    # whether the site has a sitemap, which names this page or not; None where it has none
    in_sitemap: bool | None = None


class FormerAddress(Struct, frozen=True):
    """An address that the old site redirected to another, or that was gone there already."""

    address: str
    target: str = ""  # empty: it was gone
    source: Where = Where()


# Which of the files that a manifest describes are read: from the first to the last, or the halves of them.
WHOLE = (0.0, 1.0)
HALVES = ((0.0, 0.5), (0.5, 1.0))

Item = (
    Record | Mention | Relation | LeftOutFile | FormerAddress
)  # what a reader gives, besides problems
