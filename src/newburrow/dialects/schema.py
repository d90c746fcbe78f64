"""What a dialect says: how one platform puts its content into an open format.

These types are the keys of a dialect file (`docs/dialects.md` explains them to people). A selector is an
XPath 1.0 expression, relative to the element it is about; the prefixes are those of `namespaces`.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Literal

from msgspec import Meta, Struct

Selector = str
Selectors = Selector | list[Selector]  # several: the first that finds something wins
Pattern = str  # RFC 6570
NonEmpty = Annotated[str, Meta(min_length=1)]
NO_DIALECT = "plain"  # name of the dialect that stands for none: a format as it is by itself


class Recognise(Struct, frozen=True, forbid_unknown_fields=True):
    """What tells an export in this dialect from others in the same format."""

    namespace: str = ""  # a namespace URI declared on the root element
    root: str = ""  # name of the root element, without its namespace
    # words at the beginning of the file, such as the name of the program
    generator: str = ""
    # names of members, columns or elements at the beginning of the file
    keys: list[str] = []
    file: str = ""  # the file's name, with * for any characters


class DateForms(Struct, frozen=True, forbid_unknown_fields=True):
    """How dates are written, where it is not as the standards say."""

    zone: str = ""  # IANA name: the zone of dates without an offset
    zones: dict[
        str, str
    ] = {}  # fact (`published`, `updated`, `comment`) -> its zone, if another
    forms: list[str] = []  # strptime forms, or `unix`, `unix-ms`


class SiteMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Where facts of the whole site are, relative to the channel or feed."""

    zone: Selectors = []
    language: Selectors = []
    feeds: list[str] = []  # addresses of the site's feeds, relative to the site
    front_page: Selectors = []  # id of the entry that is the front page


class Addresses(Struct, frozen=True, forbid_unknown_fields=True):
    """Addresses that no export tells one by one, and that readers link to all the same."""

    # lists by date: patterns of {year}, {month}, {day}, relative to the site
    dates: list[Pattern] = []
    # a further page of a list: a pattern of {page} and {+list}, the address of its first page
    further: Pattern = ""
    per_page: int = 0  # posts on a page of a list
    feed: Pattern = ""  # the feed of a list: a pattern of {+list}
    index: list[str] = []  # files that a folder's address shows: "index.html"
    comment: Pattern = ""  # the fragment of a comment, without `#`: a pattern of {id}


class FieldSource(Struct, frozen=True, forbid_unknown_fields=True):
    """Named metadata as pairs of a name and a value."""

    element: Selector
    name: Selector = "@name"
    value: Selector = "."
    lists: bool = False  # whether a value that is a serialised list is taken apart


class EntryMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Where the facts of an entry are, relative to its element."""

    id: Selectors = []
    kind: Selectors = []
    status: Selectors = []
    title: Selectors = []  # this and the next three: where the format itself has another place
    permalink: Selectors = []
    summary: Selectors = []
    body: Selectors = []
    slug: Selectors = []
    author: Selectors = []
    published: Selectors = []
    updated: Selectors = []
    parent: Selectors = []
    position: Selectors = []
    language: Selectors = []
    lead_picture: Selectors = []
    other_addresses: Selectors = []
    id_addresses: list[Pattern] = []  # a pattern of {id}, relative to the site
    markup: str = "html"
    # whether the old host gave each heading an id made of its words: small letters, hyphens for spaces
    heading_ids: bool = False
    markup_named: Selectors = []  # where an entry names the markup of its body
    fields: list[FieldSource] = []
    join: dict[
        str, str
    ] = {}  # fact -> what is between the texts of all its selectors, joined to one


class CommentMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Comments within their entry; one within another answers it.

    Without `element` they are items of their own, known by the kind `items`.
    """

    element: Selector = ""
    items: str = ""  # the kind, after the value map, that is a comment
    entry: Selectors = []  # id or address of the entry, relative to such an item
    id: Selectors = []
    parent: Selectors = []
    kind: Selectors = []
    status: Selectors = []
    author: Selectors = []  # id, login or name of an author that the export declares
    author_name: Selectors = []
    email: Selectors = []
    address: Selectors = []
    published: Selectors = []
    body: Selectors = []
    markup: str = "html"


class AuthorMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Authors declared ahead of the entries, and the address of an author's archive."""

    element: Selector = ""
    login: Selectors = []
    name: Selectors = []
    email: Selectors = []
    address: Selectors = []
    about: Selectors = []
    archive: Pattern = ""  # of {login}, or of {slug} made from the name; relative to the site


class TermMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Terms declared ahead of the entries, how an entry names its terms, and archive addresses."""

    element: Selector = ""
    slug: Selectors = []
    name: Selectors = []
    parent: Selectors = []  # a slug
    vocabulary: Selectors = []
    description: Selectors = []
    entry_slug: Selectors = []  # relative to the entry's own category element
    entry_vocabulary: Selectors = []
    default_vocabulary: str = "tag"
    split: str = ""  # what separates several terms in one category element
    # vocabulary -> pattern of {slug}, {+path} (slugs from the top), {id}
    archives: dict[str, Pattern] = {}


class Resized(Struct, frozen=True, forbid_unknown_fields=True):
    """How the address of a resized variant leads to its original."""

    variant: Pattern
    original: Pattern


class MediaMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Media items: which kind of entry they come as, and where their facts are."""

    kind: str = "media"  # the kind, after the value map, that is a media item
    path: Selectors = []  # of the file in the export
    address: Selectors = []  # of the file on the old site
    media_type: Selectors = []
    alternative_text: Selectors = []
    caption: Selectors = []
    entry: Selectors = []
    resized: list[Resized] = []


class Macro(Struct, frozen=True, forbid_unknown_fields=True):
    """One of the host's own placeholders in a body."""

    name: NonEmpty
    # [name ...], {{name ...}}, <name ...>, a whole line
    form: Literal["bracket", "brace", "tag", "line"] = "bracket"
    about: str = ""
    do: Literal["list", "template", "inner", "drop", "include"] = "list"
    template: str = ""  # HTML in place of it, for `template`; Jinja2, of its attributes, `inner` and `words`


class RecordMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Where records are in plain XML, JSON, CSV or front matter, and where the facts of each."""

    of: Literal[
        "site", "author", "term", "entry", "revision", "comment", "media", "menu", "relation"
    ]
    each: str = ""  # where records are in the file, or in the record around them; empty: each row, line or document
    file: str = ""  # only in files with this name, with * for any characters
    format: str = ""  # of these files, where it is another than the dialect's
    take: dict[str, Selectors] = {}  # fact -> where it is, relative to the record
    always: dict[str, str] = {}  # fact -> its value in every record that has none
    split: dict[str, str] = {}  # fact -> what separates several of them in one text
    join: dict[
        str, str
    ] = {}  # fact -> what is between the texts of all its selectors, joined to one
    # HTML pages: CSS selectors of what stands in texts, is the layout's, and is not read
    layout: list[str] = []
    shape: dict[str, str] = {}  # fact -> a text with {text} where the fact is inserted
    address: Pattern = ""  # pattern for entries without one: of {id}, {slug}, {+folder}, {year}, {month}, {day}
    terms: dict[str, Selectors] = {}  # vocabulary -> where an entry names its terms
    fields: dict[str, Selectors] = {}  # name of a field -> where it is
    pairs: list[FieldSource] = []  # fields that are pairs of a name and a value
    inner: list[RecordMap] = []  # records within this one: comments of an entry, ...


class Embed(Struct, frozen=True, forbid_unknown_fields=True):
    """How the page of a video or the like is framed by other sites."""

    page: Pattern  # a pattern of any variables, absolute
    frame: Pattern  # the new address, of the same variables


class MenuMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Menus of the site, relative to the channel or feed; an item within another is under it."""

    element: Selector = ""
    menu: Selectors = []  # the name of the menu
    label: Selectors = []
    target: Selectors = []  # an address, or the id of an entry


class WikiMap(Struct, frozen=True, forbid_unknown_fields=True):
    """How a wiki names its pages, and what stands for what in those names."""

    # prefix of names of pages of other wikis, without its colon -> a pattern of {name}, absolute
    other_wikis: dict[str, Pattern] = {}
    # what parts the name of a page from that of the page above it, such as "/"; empty: names are flat
    parent_mark: str = ""
    # words before the name of a file in a link, without their colon
    file_prefixes: list[str] = []
    # where the files of a page lie in the export: a pattern of {+page}, its name, and {file}
    files: Pattern = ""
    # the name of the page that talks about another: a pattern of {name}
    discussion: Pattern = ""
    # the name of the page about a category: a pattern of {name}
    category: Pattern = ""
    # the name of the page whose lists are the menu of the wiki
    navigation: str = ""
    # the address of an older version of a page: a pattern of {+page}, the page's own address, and {number}
    versions: Pattern = ""
    # CSS selector of links to pages that are not there, in wikis that are read as HTML
    missing: Selector = ""


class CourseMap(Struct, frozen=True, forbid_unknown_fields=True):
    """Where the entries of a package with a manifest had their pages on the old site, which no manifest says."""

    # kind -> a pattern of {+path}, its file without the extension, {name}, the last name of that, and {id}
    addresses: dict[str, Pattern] = {}


class Preset(Struct, frozen=True, forbid_unknown_fields=True):
    """An entry that the host puts on every new site; all that is given must be equal."""

    kind: str = ""
    slug: str = ""
    title: str = ""


PASSED_OVER = (
    "passed-over"  # what a map is of whose records are only told from what is around them
)
NOTHING = "-"  # what a value is mapped to if an item or a term with it is no content


class Dialect(Struct, frozen=True, forbid_unknown_fields=True):
    """One platform's way of using an open format."""

    name: NonEmpty
    format: NonEmpty
    title: str = ""
    about: str = ""
    extends: str = ""  # name or file of a dialect to which this one adds
    encoding: str = ""  # of texts that declare none and are not UTF-8; empty: guessed
    replace: dict[str, str] = {}  # words anywhere in the export -> what stands for them
    namespaces: dict[str, str] = {}  # prefix in this file -> URI
    recognise: Recognise = Recognise()
    dates: DateForms = DateForms()
    records: list[RecordMap] = []  # for the formats of plain records
    site: SiteMap = SiteMap()
    addresses: Addresses = Addresses()
    entry: EntryMap = EntryMap()
    comment: CommentMap | None = None
    author: AuthorMap = AuthorMap()
    term: TermMap = TermMap()
    media: MediaMap = MediaMap()
    # `kind`, `status`, `comment_kind`, ... -> theirs -> ours
    values: dict[str, dict[str, str]] = {}
    macros: list[Macro] = []
    embeds: list[Embed] = []
    menu: MenuMap = MenuMap()
    wiki: WikiMap = WikiMap()
    course: CourseMap = CourseMap()
    presets: list[Preset] = []

    def value(self, of: str, theirs: str) -> str:
        """A value of the export as the content model has it; unchanged if the dialect does not map it."""
        return self.values.get(of, {}).get(theirs, theirs)


def with_heading_ids(dialects: Iterable[Dialect]) -> frozenset[str]:
    """The markups in which a host gives each heading an id made of its words."""
    return frozenset(dialect.entry.markup for dialect in dialects if dialect.entry.heading_ids)
