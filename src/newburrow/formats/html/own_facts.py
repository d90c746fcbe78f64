"""The facts that a page states by itself: in open vocabularies, in its head, and by the elements of the HTML standard.

What is said most deliberately counts first: microformats2, then schema.org, then `<meta>` (also of Open Graph and
Dublin Core), then the elements themselves.
"""

from __future__ import annotations

from functools import cached_property
from itertools import islice
from urllib.parse import unquote

from selectolax.lexbor import LexborNode

from newburrow.core import url
from newburrow.formats.html import layout, microformats, navigation, schema_facts
from newburrow.formats.html.document import Document, text_of, words_of

Facts = dict[str, list[str]]
_MOST_ABOVE = 20  # pages of one trail
_OF_PLACE = ("place", "folder", "name", "address", "shown_address")
_TITLES = ("og:title", "twitter:title", "dc.title", "dcterms.title")
_PUBLISHED = (
    "article:published_time",
    "dcterms.created",
    "dcterms.issued",
    "dc.date.issued",
    "dc.date",
    "dcterms.date",
    "date",
    "pubdate",
)
_UPDATED = (
    "article:modified_time",
    "og:updated_time",
    "dcterms.modified",
    "last-modified",
    "revised",
)
_AUTHORS = ("author", "article:author", "dc.creator", "dcterms.creator")
_SUMMARIES = ("description", "og:description", "dc.description", "dcterms.abstract")


class OwnFacts:
    """The facts of one page, each as a list of texts; made when they are asked for."""

    def __init__(self, document: Document) -> None:
        self.document = document

    def texts(self, name: str) -> list[str]:
        """The texts of a fact; none where the page does not state it."""
        if name == "title":
            return self._titles
        if name == "body":
            if body := layout.body(self.document, self._content, self._titles):
                return [body]
            return []
        if name == "parent":
            return self._parent
        if name in _OF_PLACE:
            return self._place.get(name, [])
        for facts in (self._microformats, self._schema, self._head, self._elements):
            found = facts.get(name, [])
            if name == "permalink":  # a page saved or built on a disk may state its place there
                found = [address for address in found if url.key(address)]
            if found:
                return found
        return []

    def records(self, name: str) -> list[Facts]:
        """The records of a kind (`comments` or `menu`) that the page holds."""
        if name == "comments":
            return self._comments
        if name == "menu":
            return list(layout.menu(self.document))
        return []

    @cached_property
    def _entries(self) -> list[LexborNode]:
        return microformats.entries(self.document)

    @cached_property
    def _entry(self) -> LexborNode | None:
        """The entry that the page is; a page with several is a list of them, and is none of them."""
        if len(self._entries) == 1:
            return self._entries[0]
        return None

    @cached_property
    def _content(self) -> LexborNode | None:
        if self._entry is not None and (found := microformats.content(self._entry)) is not None:
            return found
        bodies = self.document.all('[itemprop~="articleBody"],[itemprop~="mainContentOfPage"]')
        if len(bodies) == 1:
            return bodies[0]
        return None

    @cached_property
    def _microformats(self) -> Facts:
        if self._entry is None:
            return {}
        return microformats.facts(self._entry, self.document)

    @cached_property
    def _things(self) -> list[schema_facts.Thing]:
        return schema_facts.things(self.document)

    @cached_property
    def _schema(self) -> Facts:
        return schema_facts.facts(self._main_thing, self.document)

    @cached_property
    def _main_thing(self) -> schema_facts.Thing:
        document = self.document
        own = {document.address, document.shown_address, *self._stated}
        titles = " ".join(text_of(node) for node in document.all("head > title,h1"))
        return schema_facts.main_thing(self._things, own, titles)

    @cached_property
    def _comments(self) -> list[Facts]:
        if self._entry is not None:
            found = list(microformats.comments(self._entry, self.document))
            if found:
                return found
        found = list(schema_facts.comments(self._main_thing, self.document))
        if not found:
            loose = {"comment": schema_facts.named(self._things, "Comment")}
            found = list(schema_facts.comments(loose, self.document))
        return [facts for facts in found if facts.get("text")]

    @cached_property
    def _head(self) -> Facts:
        meta, document = self.document.meta, self.document
        return {
            "published": meta(*_PUBLISHED),
            "updated": meta(*_UPDATED),
            "author": [name for name in meta(*_AUTHORS) if "://" not in name],
            "summary": meta(*_SUMMARIES)[:1],
            "tags": meta("article:tag") or self._keywords(),
            "categories": meta("article:section"),
            "lead_picture": [
                document.resolved(address) for address in meta("og:image", "og:image:url")[:1]
            ],
            "language": [
                value
                for node in document.all("html[lang]")
                if (value := (node.attributes.get("lang") or "").strip())
            ],
            "kind": ["post"] if meta("article:published_time") else [],
        }

    def _keywords(self) -> list[str]:
        """The keywords; some programs put the title of the page in their place."""
        document = self.document
        titles = {text_of(node).casefold() for node in document.all("head > title")}
        return [
            word.strip()
            for text in document.meta("keywords", "dc.subject")
            if text.casefold() not in titles
            for word in text.replace(";", ",").split(",")
            if word.strip()
        ]

    @cached_property
    def _stated(self) -> list[str]:
        """The address that the page states as its own, if any."""
        document = self.document
        links = document.all('link[rel~="canonical"][href],meta[property="og:url"][content]')
        stated = [
            node.attributes.get("href") or node.attributes.get("content") or ""
            for node in links
        ]
        addresses = map(document.resolved, [*stated, document.saved_from])
        return list(filter(None, addresses))[:1]

    @cached_property
    def _elements(self) -> Facts:
        """What elements and attributes say that the HTML standard gives a meaning."""
        document = self.document
        return {
            "permalink": self._stated,
            "published": layout.dates(document)[:1],
            "author": [
                text for node in document.all('a[rel~="author"]') if (text := text_of(node))
            ][:3],
            "tags": [
                text
                for node in document.all('a[rel~="tag"]')
                if (text := text_of(node).lstrip("#"))
            ],
        }

    @cached_property
    def _place(self) -> Facts:
        """What the place of the page says; the parser is not needed for it."""
        document = self.document
        folder, _slash, last = document.path.rpartition("/")
        stem = last.rpartition(".")[0] or last
        if stem == "index" and folder:
            folder, _slash, stem = folder.rpartition("/")
        saved = unquote(url.path_of(document.saved_from)).strip("/").rpartition("/")[2]
        if saved:  # a browser named the file by the title
            stem = saved.removesuffix(".html").removesuffix(".htm")
        return {
            "place": [document.place],
            "folder": [folder] if folder else [],
            # the name of a program that shows many pages is none of theirs
            "name": [] if document.is_front_page or "?" in document.shown_address else [stem],
            "address": [document.address],
            "shown_address": [document.shown_address],
        }

    @cached_property
    def _titles(self) -> list[str]:
        """The title, first that of an article, then a single heading, then that of the head without the site's name."""
        document = self.document
        stated = self._microformats.get("title") or self._schema.get("title")
        headings = document.all("main h1,article h1,[role=main] h1") or document.all("h1")
        in_head = [text_of(node) for node in document.all("head > title,title")[:1]]
        if in_head:
            headings = [node for node in headings if not self._names_site(node)]
        found = stated or [
            layout.heading_words(node) for node in headings if layout.heading_words(node)
        ]
        if not stated and len(found) != 1:
            # several headings: the one that the title of the page begins or ends with
            shared = [
                text
                for text in found
                if any(text.casefold() in title.casefold() for title in in_head)
            ]
            found = shared or [*document.meta(*_TITLES), *in_head, *found]
        titles = [document.without_site(text) for text in islice(found, 1)]
        return [text for text in titles if text]

    def _names_site(self, heading: LexborNode) -> bool:
        """Whether a heading is the name of the site, or nothing but a link to another page, as banners are."""
        document = self.document
        words = layout.heading_words(heading)
        if words.casefold() == document.site_title.casefold():
            return not document.is_front_page
        link = heading.css_first("a[href]")
        if link is None or text_of(link) != words:
            return False
        return not self._is_self(document.resolved(link.attributes.get("href") or ""))

    @property
    def _parent(self) -> list[str]:
        """The pages above, from the front page on: the steps of the trail before the page itself."""
        document = self.document
        for trail in schema_facts.named(self._things, "BreadcrumbList"):
            steps = [
                step for step in trail.get("itemListElement", []) if isinstance(step, dict)
            ]
            if above := self._above([self._step_address(step) for step in steps]):
                return above
        links = document.all(layout.TRAIL_LINKS)
        if above := self._above(
            [document.resolved(node.attributes.get("href") or "") for node in links]
        ):
            return above
        up = navigation.up(document)
        if up:
            return [up]
        return []

    def _above(self, addresses: list[str]) -> list[str]:
        """The addresses of a trail that lead to other pages, the last of them if there are many."""
        above = [address for address in addresses if address and not self._is_self(address)]
        return above[-_MOST_ABOVE:]

    def _step_address(self, step: schema_facts.Thing) -> str:
        item = step.get("item", "")
        if isinstance(item, list):
            item = item[0] if item else ""
        if isinstance(item, dict):
            item = item.get("@id") or item.get("url") or ""
            if isinstance(item, list):
                item = item[0] if item else ""
        return self.document.resolved(words_of(str(item)))

    def _is_self(self, address: str) -> bool:
        bare = address.partition("#")[0]
        own = (self.document.address, self.document.shown_address, *self._stated)
        return not bare or bare in own
