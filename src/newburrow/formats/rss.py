"""RSS 2.0: the reader.

The elements of RSS 2.0 itself and of its modules content, Dublin Core, atom and slash are known here;
all else is what the dialect says of it. Namespaces are matched by URI. What neither knows is kept in
`extra` under its name, so that nothing is lost.
"""

from __future__ import annotations

from collections.abc import Iterator

from newburrow.formats.base import Format, Input
from newburrow.formats.feed.channel import Channel
from newburrow.formats.feed.item import FeedItem, item_problem
from newburrow.formats.feed.maps import ATOM, DC, Speech
from newburrow.formats.selector import text_of
from newburrow.intake.part import Head
from newburrow.model import Body, Record
from newburrow.problem import Problem, Severity

CONTENT = "{http://purl.org/rss/1.0/modules/content/}encoded"
SLASH_COMMENTS = "{http://purl.org/rss/1.0/modules/slash/}comments"

SPEECH = Speech(
    holder="channel",
    item="item",
    known=frozenset((
        "title", "link", "guid", "pubDate", "author", "category", "description", CONTENT, SLASH_COMMENTS,
        *(DC + name for name in ("creator", "date", "language", "subject", "title")),
        ATOM + "updated", ATOM + "published",
    )),
    site={
        "title": ("title",), "link": ("link", "a:link[@rel='alternate']/@href"), "generator": ("generator",),
        "description": ("description",), "language": ("language", "dc:language"),
    },
    entry={
        "author": ("dc:creator", "author"), "published": ("pubDate", "dc:date", "a:published"),
        "updated": ("a:updated",), "language": ("dc:language",),
    },
)  # fmt: skip


class RssItem(FeedItem):
    """An `item` of RSS 2.0."""

    def links(self) -> tuple[str, str, list[str]]:
        """`link`, `guid`, and the guid once more where it is an address too (`isPermaLink`)."""
        link, guids = self.core("link"), self.children.get("guid")
        if not guids:
            return link, "", []
        guid = text_of(guids[0]).strip()
        is_link = guids[0].get("isPermaLink", "true").lower() == "true" and guid.startswith(("http://", "https://"))
        return link or (guid if is_link else ""), guid, [guid] if is_link and guid != link else []

    def title(self) -> str:
        """`title`, else that of Dublin Core."""
        return self.core("title") or self.core(DC + "title")

    def bodies(self) -> tuple[Body, str]:
        """A description is the summary only where there is a body of its own."""
        encoded, description = self.children.get(CONTENT), self.core("description")
        body, summary = (text_of(encoded[0]), description) if encoded else (description, "")
        return Body(body, self.dialect.entry.markup), summary

    def authors(self) -> list[str]:
        """Those of the dialect, of Dublin Core, or `author`."""
        names = self.shared.maps.entry["author"].each(self.element, self.children)
        return [self.shared.name_author(name, self.where) for name in names]

    def terms(self) -> list[str]:
        """`category`, and the subjects of Dublin Core."""
        elements = (*self.children.get("category", ()), *self.children.get(DC + "subject", ()))
        return [self.shared.name_term(one, text_of(one).strip()) for one in elements]

    def check_count(self, found: int) -> None:
        """Hold the number of comments against what `slash:comments` says."""
        said = self.core(SLASH_COMMENTS)
        if said.isdigit() and int(said) > found:
            self.problems.append(
                item_problem(
                    Severity.WARNING,
                    "comments-missing",
                    f"The export says that this entry has {said} comments; it holds {found}.",
                    "See whether the old host can export its comments apart.",
                    self.where,
                    self.key,
                )
            )


class Rss(Format):
    """RSS 2.0 with its common modules."""

    name = "rss"
    title = "RSS 2.0"

    def recognise(self, head: Head) -> bool:
        """Whether the root element is `rss`."""
        return head.prolog is not None and head.prolog.root == "rss"

    def read(self, source: Input) -> Iterator[Record | Problem]:
        """The channel as a site, its items as entries and media, with authors, terms and comments."""
        return Channel(source, SPEECH, RssItem).records()


FORMAT = Rss()
