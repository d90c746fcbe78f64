"""Where a feed has its facts: the selectors of the format itself and of a dialect, compiled once for a part."""

from __future__ import annotations

from typing import Any

from lxml import etree
from msgspec import Struct

from newburrow.dialects.element_pattern import ElementPattern
from newburrow.dialects.schema import CommentMap, Dialect
from newburrow.dialects.selector import Index, Selector, Selectors, index, inner_html, kept
from newburrow.formats.feed import attributes
from newburrow.model import Extra

CONTENT = "{http://purl.org/rss/1.0/modules/content/}encoded"
DC = "{http://purl.org/dc/elements/1.1/}"
DC_TERMS = "{http://purl.org/dc/terms/}"
MEDIA = "{http://search.yahoo.com/mrss/}"
ATOM = "{http://www.w3.org/2005/Atom}"
SLASH_COMMENTS = "{http://purl.org/rss/1.0/modules/slash/}comments"
THREAD = "{http://purl.org/syndication/thread/1.0}"
REPLY, TOTAL = THREAD + "in-reply-to", THREAD + "total"
WELL_FORMED = "{http://wellformedweb.org/CommentAPI/}"

RSS_1 = "{http://purl.org/rss/1.0/}"
XML = "{http://www.w3.org/XML/1998/namespace}"
_PREFIXES = {
    "dc": DC[1:-1],
    "dt": DC_TERMS[1:-1],
    "a": ATOM[1:-1],
    "xml": XML[1:-1],
    "r": RSS_1[1:-1],
}

_ENTRY = (
    "id",
    "kind",
    "status",
    "title",
    "permalink",
    "summary",
    "slug",
    "author",
    "published",
    "updated",
    "parent",
    "position",
    "language",
    "lead_picture",
    "other_addresses",
    "markup_named",
)


_COMMENT = (
    "id",
    "entry",
    "parent",
    "kind",
    "status",
    "author",
    "author_name",
    "email",
    "address",
    "published",
    "body",
)
# What goes with these is kept by `enclosures`.
_OF_ATTACHED = ("enclosure", MEDIA + "group", MEDIA + "content", MEDIA + "thumbnail")
_OF_FEED = ("link", "id", "updated", "author")  # read for the entries, or present in every feed


class FeedSelectors(Struct, frozen=True):
    """What a feed format says itself, without any dialect."""

    holder: str  # tag of the element that holds the items
    item: str  # tag of an item
    known: frozenset[str]  # tags of an item's children that are read
    several: frozenset[str]  # those of which each is read; of any other only the first
    site: dict[str, tuple[str, ...]]  # fact of the site -> selectors, relative to the holder
    entry: dict[str, tuple[str, ...]]  # fact of an entry -> selectors, relative to the item


class CompiledDialect:
    """The selectors of a dialect, compiled once for a part."""

    def __init__(self, dialect: Dialect, speech: FeedSelectors) -> None:
        names = dialect.namespaces

        def compiled(texts: Any, *core: str) -> Selectors:
            own = Selectors(texts, names)
            own.all += [Selector(text, _PREFIXES) for text in core]
            return own

        own = {
            "language": dialect.site.language,
            "zone": dialect.site.zone,
            "front_page": dialect.site.front_page,
        }
        facts = (
            "title",
            "link",
            "generator",
            "description",
            "language",
            "zone",
            "written",
            "front_page",
        )
        self.speech = speech
        self.site = {
            fact: compiled(own.get(fact, []), *speech.site.get(fact, ())) for fact in facts
        }
        self.entry = {
            name: compiled(getattr(dialect.entry, name), *speech.entry.get(name, ()))
            for name in _ENTRY
        }
        self.body = compiled(dialect.entry.body)
        self.joined = [
            (name, self.entry[name], mark)
            for name, mark in dialect.entry.join.items()
            if name in self.entry
        ]
        self.groups = {
            "author": {
                n: compiled(getattr(dialect.author, n))
                for n in ("login", "name", "email", "address", "about")
            },
            "term": {
                n: compiled(getattr(dialect.term, n))
                for n in ("slug", "name", "parent", "vocabulary", "description")
            },
            "menu": {
                n: compiled(getattr(dialect.menu, n)) for n in ("menu", "label", "target")
            },
            "media": {
                n: compiled(getattr(dialect.media, n))
                for n in (
                    "path",
                    "address",
                    "media_type",
                    "alternative_text",
                    "caption",
                    "entry",
                )
            },
        }
        self.entry_slug = compiled(dialect.term.entry_slug)
        self.entry_vocabulary = compiled(dialect.term.entry_vocabulary)
        self.fields = [
            (
                Selector(f.element, names),
                Selector(f.name, names),
                Selector(f.value, names),
                f.lists,
            )
            for f in dialect.entry.fields
        ]
        own_comments = dialect.comment or CommentMap()
        self.comment_element: Selector | None = None
        if own_comments.element:
            self.comment_element = Selector(own_comments.element, names)
        self.groups["comment"] = {n: compiled(getattr(own_comments, n)) for n in _COMMENT}
        self.known = self._known_tags(dialect)
        self.attributes = attributes.asked_for(dialect)
        self.several = self._several_tags(dialect)
        self._expressions = self._expressions_of()
        # Most dialects have no place for most facts; reading only those that have one halves the work.
        groups = {"entry": self.entry, **self.groups}
        self._blank = {name: dict.fromkeys(group, "") for name, group in groups.items()}
        self._asked = {
            name: [(n, field, field.child) for n, field in group.items() if field.all]
            for name, group in groups.items()
        }

    def _known_tags(self, dialect: Dialect) -> dict[str, set[str]]:
        """For each kind of element the tags of its children that have a place in the model."""

        def tags(*many: Selectors) -> set[str]:
            return {tag for selectors in many for tag in selectors.tags}

        if self.comment_element:
            inner = {self.comment_element.tag}
        else:
            inner = set()
        fields = {element.tag for element, _name, _value, _lists in self.fields}
        top = {
            tag
            for text in (dialect.author.element, dialect.term.element, dialect.menu.element)
            for tag in ElementPattern(text, dialect.namespaces).tags
        }
        return {
            "site": tags(*self.site.values())
            | top
            | {self.speech.item, *(ATOM + name for name in _OF_FEED)}
            | {RSS_1 + name for name in ("title", "link", "description", "items")}
            | {DC + name for name in ("language", "date")},
            "item": tags(*self.entry.values(), self.body) | self.speech.known | fields | inner,
            "media": tags(*self.entry.values(), self.body, *self.groups["media"].values())
            | self.speech.known
            | fields
            | inner,
            "comment": tags(*self.groups["comment"].values()) | inner,
            "reply": tags(*self.entry.values(), self.body, *self.groups["comment"].values())
            | self.speech.known
            | fields
            | inner,
            "author": tags(*self.groups["author"].values()),
            "menu": tags(*self.groups["menu"].values()) | top,
            "term": tags(*self.groups["term"].values()),
        }

    def _expressions_of(self) -> dict[str, list[Selector]]:
        """For each kind of element the selectors that are expressions: what they read is known only afterwards."""

        def expressions(*many: Selectors) -> list[Selector]:
            return [
                selector
                for selectors in many
                for selector in selectors.all
                if selector.is_expression
            ]

        entry = expressions(*self.entry.values(), self.body)
        entry += [one for field in self.fields for one in field[:1] if one.is_expression]
        if self.comment_element and self.comment_element.is_expression:
            entry.append(self.comment_element)
        comment = expressions(*self.groups["comment"].values())
        return {
            "site": expressions(*self.site.values()),
            "item": entry,
            "media": entry + expressions(*self.groups["media"].values()),
            "reply": entry + comment,
            "comment": comment,
            **{
                name: expressions(*self.groups[name].values())
                for name in ("author", "term", "menu")
            },
        }

    def _several_tags(self, dialect: Dialect) -> set[str]:
        """The tags of which each element is read; of others only the first."""
        found = set(self.speech.several)
        for selectors in (self.entry["author"], self.entry["other_addresses"]):
            found |= selectors.tags
        found |= {element.tag for element, _name, _value, _lists in self.fields}
        if self.comment_element:
            found.add(self.comment_element.tag)
        return found

    def texts(self, group: str, element: etree._Element, children: Index) -> dict[str, str]:
        """The facts of one group (`entry`, `author`, `term`, `media`, `comment`) relative to an element.

        `children` is the index of the element; it is made once and handed on.
        """
        found = self._blank[group].copy()
        for name, selectors, child in self._asked[group]:
            # A single child element, which most selectors name, is read here: a call would cost more than that.
            if child:
                matching = children.get(child)
                if matching is None:
                    continue
                if len(matching) == 1 and len(matching[0]) == 0:
                    found[name] = (matching[0].text or "").strip()
                    continue
            found[name] = selectors.first(element, children)
        if group == "entry":
            for name, selectors, mark in self.joined:
                found[name] = mark.join(selectors.each(element, children))
        return found

    def _chosen(self, group: str, children: Index, known: set[str]) -> set[etree._Element]:
        """The children that an expression of the dialect has selected, or an attribute or a descendant of them."""
        expressions = self._expressions.get(group, ())
        unknown = next(
            (elements[0] for tag, elements in children.items() if tag not in known), None
        )
        if not expressions or unknown is None:
            return set()
        parent, found = unknown.getparent(), set[etree._Element]()
        if parent is None:
            return found
        for selector in expressions:
            for _text, place in selector.placed(parent, children):
                if place:
                    element = place[0]
                else:
                    element = None
                while element is not None and element.getparent() is not parent:
                    element = element.getparent()
                if element is not None:
                    found.add(element)
        return found

    def own_body(self, element: etree._Element, children: Index) -> str:
        """The body where the dialect says it is: HTML if the element there has children."""
        for selector in self.body.all:
            for found in selector.elements(element, children) if selector.is_element else ():
                if (text := inner_html(found)).strip():
                    return text
        return self.body.first(element, children)

    def extra(self, group: str, children: Index) -> Extra:
        """The content of an element that has no place in the model."""
        known = self.known[group]
        extra: Extra = {}
        chosen = self._chosen(group, children, known)
        for tag, elements in children.items():
            if tag == RSS_1 + "channel":  # beside the items, with facts of the site in it
                extra |= self.extra(group, index(elements[0]))
                continue
            unread = elements
            if tag in known and tag not in _OF_ATTACHED:
                for name, values in attributes.unread(elements, self.attributes).items():
                    extra[f"{tag}/@{name}"] = values
            if tag in known and (len(elements) == 1 or tag in self.several or group == "site"):
                continue
            if tag in known:
                first = kept(elements[0])
                unread = [element for element in elements[1:] if kept(element) != first]
            values = [kept(element) for element in unread if element not in chosen]
            if any(values):
                extra[tag] = values
        return extra
