"""One feed, streamed: its facts, the authors and terms declared in it, its items one after another."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator

from lxml import etree

from newburrow.core.dates import parse_date, zone_named
from newburrow.core.problem import Problem
from newburrow.dialects.element_pattern import ElementPattern
from newburrow.dialects.schema import NOTHING
from newburrow.dialects.selector import forget, index, kept, resolve_entities
from newburrow.formats.base import Input
from newburrow.formats.feed.feed_map import FeedSelectors
from newburrow.formats.feed.item import FeedItem
from newburrow.formats.feed.shared import Shared
from newburrow.formats.slug_text import decoded_slug
from newburrow.intake.xml_errors import not_well_formed
from newburrow.model import Author, Extra, MenuItem, Site, Term, Where
from newburrow.model.reading import Item, Mention


class Channel:
    """One pass over one feed."""

    def __init__(self, source: Input, speech: FeedSelectors, item: type[FeedItem]) -> None:
        self.speech, self.item = speech, item
        # a namespace in which the feed has its elements, instead of that of the format
        self.renamed = ""
        self.source, self.dialect = source, source.dialect
        self.shared = Shared(source.label, source.dialect, speech, source.lines)
        self.facts: dict[str, str] = {}
        self.more: Extra = {}
        names = self.dialect.namespaces
        self.authors = ElementPattern(self.dialect.author.element, names)
        self.terms = ElementPattern(self.dialect.term.element, names)
        self.menus = ElementPattern(self.dialect.menu.element, names)
        self.lines = 0  # of menus
        self.unread: Extra = {}  # elements of a declared name that no pattern matches

    def records(self) -> Iterator[Item | Problem]:
        """Everything in the feed, in document order; the site, and what was only named, at the end."""
        tags = [
            tag if tag.startswith("{") and tag != self.speech.item else f"{{*}}{_split(tag)[1]}"
            for tag in (
                self.speech.item,
                *self.authors.tags,
                *self.terms.tags,
                *self.menus.tags,
            )
        ]
        # Entities were refused before (intake.prolog); still, nothing is expanded or fetched here.
        events = etree.iterparse(
            self.source.stream,
            events=("end",),
            tag=tags,
            resolve_entities=False,
            no_network=True,
            load_dtd=False,
            huge_tree=True,
            remove_comments=True,
            remove_pis=True,
        )
        channel, count = None, 0
        try:
            for _event, element in events:
                parent = element.getparent()
                if parent is None or not self._is_own(element, parent):
                    continue
                channel = parent
                self._rename(channel)
                if element.getroottree().docinfo.doctype:
                    resolve_entities(channel)
                if element.tag == self.speech.item and not count:
                    self._learn(parent)
                    yield Mention(self._site())
                yield from self._element(element)
                if element.tag == self.speech.item:
                    count += 1
                    self.source.progress(count)
                    forget(element)
        except etree.XMLSyntaxError as error:
            raise not_well_formed(error, self.source.label) from None
        if channel is None:
            channel = self._holder(events.root)
            if channel is not None:
                self._rename(channel)
                resolve_entities(channel)
        if channel is not None:
            self._learn(channel)
        yield self._site()
        yield from map(Mention, self.shared.people.authors())
        yield from map(Mention, self.shared.terms.values())

    def _holder(self, root: etree._Element | None) -> etree._Element | None:
        """The element that holds the items, in a feed that has none."""
        name = _split(self.speech.holder)[1]
        if root is None or _split(root.tag)[1] == name:
            return root
        return next(root.iterchildren(f"{{*}}{name}"), None)

    def _is_own(self, element: etree._Element, holder: etree._Element) -> bool:
        """Whether an element is in the one that holds the items, in the namespace that the feed uses."""
        holder_space, holder_name = _split(holder.tag)
        our_space, our_name = _split(self.speech.holder)
        item_space, item_name = _split(self.speech.item)
        space, name = _split(element.tag)
        if holder_name != our_name or (our_space != item_space and holder_space != our_space):
            return False
        if name == item_name and our_space == item_space:
            return space in (
                holder_space,
                our_space,
            )  # those that follow may be renamed already
        return True

    def _rename(self, channel: etree._Element) -> None:
        """Put what is in the feed's own namespace into that of the format; the holder itself is still open."""
        ours = _split(self.speech.item)[0]
        if ours == _split(self.speech.holder)[0]:
            theirs = _split(channel.tag)[0]
        else:
            names = (_split(child.tag) for child in channel.iterchildren(tag=etree.Element))
            theirs = next((space for space, name in names if name in ("channel", "item")), ours)
        if theirs != ours:
            self.renamed = theirs
        if self.renamed:
            for element in channel.iterdescendants(f"{self.renamed}*"):
                with contextlib.suppress(ValueError):  # a name that no element can have
                    element.tag = ours + element.tag.removeprefix(self.renamed)

    def _learn(self, channel: etree._Element) -> None:
        """Read the facts of the channel that came so far; they may also come after the items."""
        children = index(channel)
        for fact, selectors in self.shared.maps.site.items():
            if not self.facts.get(fact):
                self.facts[fact] = selectors.first(channel, children)
        self.shared.base = self.shared.base or self.facts["link"] or self.source.base
        self.shared.zone = zone_named(self.dialect.dates.zone or self.facts["zone"])
        self.more = {**self.shared.maps.extra("site", children), **self.more}

    def _site(self) -> Site:
        facts = self.facts.get
        return Site(
            key="site",
            title=facts("title", ""),
            address=facts("link", "") or self.shared.base,
            language=facts("language", ""),
            zone=facts("zone", ""),
            generator=facts("generator", ""),
            description=facts("description", ""),
            front_page=facts("front_page", ""),
            written=parse_date(facts("written", ""), self.shared.zone)
            if facts("written")
            else None,
            extra=self.more | self.unread,
            source=Where(self.source.label),
        )

    def _element(self, element: etree._Element) -> Iterator[Item | Problem]:
        if element.tag == self.speech.item:
            yield from self.item(self.shared, element).records()
            return
        if self.menus.matches(element):
            yield from self._menu(element, "")
        elif self.authors.matches(element):
            yield self._author(element)
        elif self.terms.matches(element):
            term = self._term(element)
            if term.vocabulary != NOTHING:
                yield term
        elif text := kept(element):
            self.unread.setdefault(str(element.tag), []).append(text)

    def _menu(self, element: etree._Element, parent: str) -> Iterator[MenuItem]:
        """A line of a menu, and those within it."""
        children = index(element)
        text = self.shared.maps.texts("menu", element, children)
        self.lines += 1
        key = f"menu/{self.lines}"
        yield MenuItem(
            key=key,
            menu=text["menu"],
            label=text["label"],
            target=text["target"],
            parent=parent,
            position=self.lines,
            extra=self.shared.maps.extra("menu", children),
            source=self.shared.where(element),
        )
        for inner in element.iterchildren(*self.menus.tags):
            if self.menus.matches(inner):
                yield from self._menu(inner, key)

    def _author(self, element: etree._Element) -> Author:
        children = index(element)
        text = self.shared.maps.texts("author", element, children)
        key = text["login"] or text["name"]
        return Author(
            key=key,
            login=text["login"],
            name=text["name"] or key,
            email=text["email"],
            address=text["address"],
            about=text["about"],
            extra=self.shared.maps.extra("author", children),
            source=self.shared.where(element),
        )

    def _term(self, element: etree._Element) -> Term:
        children = index(element)
        text = self.shared.maps.texts("term", element, children)
        vocabulary = self.shared.vocabulary(text["vocabulary"])
        slug = decoded_slug(text["slug"] or text["name"])
        if text["parent"]:
            parent = f"{vocabulary}/{text['parent']}"
        else:
            parent = ""
        return Term(
            key=f"{vocabulary}/{slug}",
            vocabulary=vocabulary,
            slug=slug,
            name=text["name"] or slug,
            parent=parent,
            description=text["description"],
            extra=self.shared.maps.extra("term", children),
            source=self.shared.where(element),
        )


def _split(tag: str) -> tuple[str, str]:
    """The namespace of a tag in its braces, and the local name."""
    namespace, brace, name = tag.rpartition("}")
    return namespace + brace, name
