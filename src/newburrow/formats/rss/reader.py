"""RSS 2.0 and its elders 0.91, 0.92 and 1.0: the reader.

The elements of RSS itself and of its modules content, Dublin Core, atom and slash are known here; everything else is
what the dialect says of it. In RSS 1.0 the elements have a namespace, and items are beside the channel.
Namespaces are matched by URI. What neither knows is kept in `extra` under its name, so that nothing is lost.
"""

from __future__ import annotations

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.dialects.selector import text_of
from newburrow.formats.feed import enclosures
from newburrow.formats.feed.feed_map import (
    ATOM,
    DC,
    DC_TERMS,
    MEDIA,
    REPLY,
    RSS_1,
    SLASH_COMMENTS,
    TOTAL,
    WELL_FORMED,
    FeedSelectors,
)
from newburrow.formats.feed.item import FeedItem
from newburrow.formats.value_problems import at_entry
from newburrow.model import Body

CONTENT = "{http://purl.org/rss/1.0/modules/content/}encoded"
RDF_ROOT = "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}RDF"
_ABOUT = "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}about"

_OWN = ("title", "link", "guid", "pubDate", "author", "category", "description")
_MODULES = (
    CONTENT,
    SLASH_COMMENTS,
    REPLY,
    RSS_1,
    TOTAL,
    WELL_FORMED + "commentRss",
    ATOM + "updated",
    ATOM + "published",
    *enclosures.TAGS,
    *(DC + name for name in ("creator", "date", "description", "language", "subject", "title")),
    *(
        DC_TERMS + name
        for name in ("created", "creator", "issued", "modified", "subject", "abstract")
    ),
    MEDIA + "category",
    MEDIA + "keywords",
)
_ENTRY = {
    "author": ("dc:creator", "dt:creator", "author"),
    "published": ("pubDate", "dc:date", "dt:issued", "dt:created", "a:published"),
    "updated": ("a:updated", "dt:modified"),
    "language": ("dc:language",),
}

_TERMS = ("category", DC + "subject", DC_TERMS + "subject", MEDIA + "category")

_SEVERAL = frozenset(
    (*_TERMS, MEDIA + "keywords", WELL_FORMED + "commentRss", *enclosures.TAGS)
)

SPEECH = FeedSelectors(
    holder="channel",
    item="item",
    known=frozenset((*_OWN, *_MODULES)),
    several=_SEVERAL,
    site={
        "title": ("title",),
        "link": ("link", "a:link[@rel='alternate']/@href"),
        "generator": ("generator",),
        "description": ("description",),
        "language": ("language", "dc:language"),
        "written": ("lastBuildDate", "pubDate", "dc:date"),
    },
    entry=_ENTRY,
)

SPEECH_1 = FeedSelectors(
    holder=RDF_ROOT,
    item=RSS_1 + "item",
    known=frozenset((*(RSS_1 + name for name in ("title", "link", "description")), *_MODULES)),
    several=_SEVERAL,
    site={
        "title": ("r:channel/r:title",),
        "link": ("r:channel/r:link",),
        "description": ("r:channel/r:description",),
        "language": ("r:channel/dc:language",),
        "written": ("r:channel/dc:date",),
    },
    entry=_ENTRY,
)


class RssItem(FeedItem):
    """An `item` of RSS 2.0, 0.91 or 0.92."""

    own = ""  # the namespace of RSS's own elements

    def links(self) -> tuple[str, str, list[str]]:
        """`link`, `guid`, and the guid once more where it is an address too (`isPermaLink`)."""
        link, guids = self.core(self.own + "link"), self.children.get("guid")
        if not guids:
            return link, self.element.get(_ABOUT, ""), []
        guid = text_of(guids[0]).strip()
        is_link = guids[0].get("isPermaLink", "true").lower() == "true" and guid.startswith(
            ("http://", "https://")
        )
        is_other = guid != link and (is_link or self.is_own_address(guid))
        return link or (guid if is_link else ""), guid, [guid] if is_other else []

    def title(self) -> str:
        """`title`, else that of Dublin Core."""
        return self.core(self.own + "title") or self.core(DC + "title")

    def bodies(self) -> tuple[Body, str]:
        """A description is the summary only where there is a body of its own."""
        encoded = self.children.get(CONTENT)
        description = (
            self.core(self.own + "description")
            or self.core(DC + "description")
            or self.core(DC_TERMS + "abstract")
        )
        if encoded:
            body, summary = (text_of(encoded[0]), description)
        else:
            body, summary = (description, "")
        # xml:base; a plain description is relative to the item
        if encoded:
            base = encoded[0].base
        else:
            base = None
        base = base or self.element.base
        return Body(body, self.markup(), url.resolve(self.base, base) if base else ""), summary

    def feeds(self) -> list[str]:
        """The feed of the item's comments (wfw:commentRss)."""
        return [
            text
            for element in self.children.get(WELL_FORMED + "commentRss", ())
            if (text := text_of(element).strip())
        ]

    def authors(self) -> list[str]:
        """Those of the dialect, of Dublin Core, or `author`."""
        names = self.shared.maps.entry["author"].each(self.element, self.children)
        return [self.shared.people.key_in(name, self.where) for name in names]

    def terms(self) -> list[str]:
        """`category`, the subjects of Dublin Core, and the categories and keywords of Media RSS."""
        found = []
        for tag in _TERMS:
            for element in self.children.get(tag, ()):
                name = element.get("label", "").strip() or text_of(element).strip()
                found += [
                    self.shared.name_term(element, part) for part in self.shared.names_in(name)
                ]
        for element in self.children.get(MEDIA + "keywords", ()):
            for word in text_of(element).split(","):
                found.append(self.shared.name_term(element, word.strip()))
        return found

    def check_count(self, found: int) -> None:
        """Report if the number of comments found is not that of `slash:comments`."""
        stated_count = self.core(SLASH_COMMENTS) or self.core(TOTAL)
        if stated_count.isdigit() and int(stated_count) > found:
            self.problems.append(
                at_entry(
                    Problem.at(
                        self.where, "comments-missing", stated=stated_count, found=found
                    ),
                    self.key,
                )
            )


class Rss1Item(RssItem):
    """An `item` of RSS 1.0."""

    own = RSS_1
