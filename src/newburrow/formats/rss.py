"""RSS 2.0: the reader.

The elements of RSS 2.0 itself and of its modules content, Dublin Core, atom and slash are known here;
all else is what the dialect says of it. Namespaces are matched by URI. What neither knows is kept in
`extra` under its name, so that nothing is lost.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import datetime
from typing import Any

from lxml import etree

from newburrow import address
from newburrow.formats.base import Format, Input
from newburrow.formats.dates import parse_date, zone_named
from newburrow.formats.dialect import CommentMap, Dialect
from newburrow.formats.selector import Index, Selector, Selectors, index, text_of
from newburrow.intake.opening import Head, reading
from newburrow.model import (
    COMMENT_KINDS,
    COMMENT_STATES,
    ENTRY_KINDS,
    ENTRY_STATES,
    Author,
    Body,
    Comment,
    Entry,
    Extra,
    Media,
    Record,
    Site,
    Term,
    Where,
)
from newburrow.problem import Problem, Severity, stop

CONTENT = "{http://purl.org/rss/1.0/modules/content/}encoded"
DC = "{http://purl.org/dc/elements/1.1/}"
ATOM = "{http://www.w3.org/2005/Atom}"
SLASH_COMMENTS = "{http://purl.org/rss/1.0/modules/slash/}comments"

_CORE = {
    "title",
    "link",
    "guid",
    "pubDate",
    "author",
    "category",
    "description",
    CONTENT,
    SLASH_COMMENTS,
    DC + "creator",
    DC + "date",
    DC + "language",
    DC + "subject",
    DC + "title",
    ATOM + "updated",
    ATOM + "published",
}
_MAILBOX = re.compile(r"(\S+@\S+)\s*\((.+)\)\s*")


class Rss(Format):
    """RSS 2.0 with its common modules."""

    name = "rss"
    title = "RSS 2.0"

    def recognise(self, head: Head) -> bool:
        """Whether the root element is `rss`."""
        return head.prolog is not None and head.prolog.root == "rss"

    def read(self, source: Input) -> Iterator[Record | Problem]:
        """The channel as a site, its items as entries and media, with authors, terms and comments."""
        return _Channel(source).records()


FORMAT = Rss()


def _problem(severity: Severity, code: str, message: str, advice: str, where: Where, key: str = "") -> Problem:
    return Problem(severity, code, message, advice, where, "entry" if key else "", key)


class _Channel:
    """One pass over one channel."""

    def __init__(self, source: Input) -> None:
        self.source, self.dialect = source, source.dialect
        self.facts: dict[str, str] = {}
        self.more: Extra = {}
        self.base = ""
        self.zone = zone_named("")
        # Authors and terms are few; those declared win over those only named in an entry.
        self.declared: set[str] = set()
        self.named: dict[str, Author | Term] = {}
        names = self.dialect.namespaces
        self.maps = _Compiled(self.dialect)
        self.author_tag = Selector(self.dialect.author.element, names).tag if self.dialect.author.element else ""
        self.term_tag = Selector(self.dialect.term.element, names).tag if self.dialect.term.element else ""

    def records(self) -> Iterator[Record | Problem]:
        stream = _Stream(self.source)
        tags = [tag for tag in ("item", self.author_tag, self.term_tag) if tag]
        # Entities were refused before (intake.prolog); nothing is expanded or fetched here all the same.
        events = etree.iterparse(
            stream,
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
                if parent is None or parent.tag != "channel":
                    continue
                channel = parent
                if element.tag == "item" and not count:
                    self._learn(parent)
                yield from self._element(element)
                if element.tag == "item":
                    count += 1
                    self.source.progress(count)
                    _forget(element)
        except etree.XMLSyntaxError as error:
            raise _not_well_formed(error, self.source.label) from None
        if channel is None:
            channel = next(events.root.iterchildren("channel"), None) if events.root is not None else None
        if channel is not None:
            self._learn(channel)
        yield self._site()
        yield from (record for key, record in self.named.items() if key not in self.declared)

    def _learn(self, channel: etree._Element) -> None:
        """Read the facts of the channel that stand so far; they may also come after the items."""
        children = index(channel)
        for fact, selectors in self.maps.site.items():
            if not self.facts.get(fact):
                self.facts[fact] = selectors.first(channel, children)
        self.base = self.base or self.facts["link"]
        self.zone = zone_named(self.facts["zone"])
        self.more = {**self.extra("site", channel), **self.more}

    def _site(self) -> Site:
        facts = self.facts.get
        return Site(
            key="site",
            title=facts("title", ""),
            address=facts("link", "") or self.base,
            language=facts("language", ""),
            zone=facts("zone", ""),
            generator=facts("generator", ""),
            description=facts("description", ""),
            extra=self.more,
            source=Where(self.source.label),
        )

    def _element(self, element: etree._Element) -> Iterator[Record | Problem]:
        if element.tag == "item":
            yield from _Item(self, element).records()
            return
        read = self._author if element.tag == self.author_tag else self._term
        record = read(element)
        self.declared.add(f"{type(record).__name__} {record.key}")
        yield record

    def _author(self, element: etree._Element) -> Author:
        text = self.maps.texts("author", element)
        key = text["login"] or text["name"]
        return Author(
            key=key,
            login=text["login"],
            name=text["name"] or key,
            email=text["email"],
            address=text["address"],
            about=text["about"],
            extra=self.extra("author", element),
            source=self.where(element),
        )

    def _term(self, element: etree._Element) -> Term:
        text = self.maps.texts("term", element)
        vocabulary = self._vocabulary(text["vocabulary"])
        slug = text["slug"] or text["name"]
        parent = f"{vocabulary}/{text['parent']}" if text["parent"] else ""
        return Term(
            key=f"{vocabulary}/{slug}",
            vocabulary=vocabulary,
            slug=slug,
            name=text["name"] or slug,
            parent=parent,
            description=text["description"],
            extra=self.extra("term", element),
            source=self.where(element),
        )

    def extra(self, group: str, element: etree._Element) -> Extra:
        """What stands in an element and has no place in the model."""
        known = self.maps.known[group]
        extra: Extra = {}
        for tag, elements in index(element).items():
            values = [_kept(one) for one in elements] if tag not in known else []
            if any(values):
                extra[tag] = values
        return extra

    def _vocabulary(self, theirs: str) -> str:
        return self.dialect.value("vocabulary", theirs) if theirs else self.dialect.term.default_vocabulary

    def name_author(self, text: str, where: Where) -> str:
        """The key of an author that an entry names."""
        mailbox = _MAILBOX.fullmatch(text)
        name, email = (mailbox[2], mailbox[1]) if mailbox else (text, "")
        key = name.strip()
        self.named.setdefault(f"Author {key}", Author(key=key, name=key, email=email, source=where))
        return key

    def name_term(self, element: etree._Element) -> str:
        """The key of a term that an entry names by a category element; empty where it names none."""
        children: Index = {}
        name = text_of(element).strip()
        slug = self.maps.entry_slug.first(element, children) or name
        if not slug:
            return ""
        vocabulary = self._vocabulary(self.maps.entry_vocabulary.first(element, children))
        key = f"{vocabulary}/{slug}"
        self.named.setdefault(
            f"Term {key}",
            Term(key=key, vocabulary=vocabulary, slug=slug, name=name or slug, source=self.where(element)),
        )
        return key

    def where(self, element: etree._Element) -> Where:
        return Where(self.source.label, element.sourceline or 0)

    def date(self, text: str) -> datetime | None:
        return parse_date(text, self.zone) if text else None


class _Compiled:
    """The selectors of a dialect, compiled once for a part."""

    def __init__(self, dialect: Dialect) -> None:
        names = dialect.namespaces

        def compiled(texts: Any, *core: str) -> Selectors:
            own = Selectors(texts, names)
            own.all += [Selector(text, {"dc": DC[1:-1], "a": ATOM[1:-1]}) for text in core]
            return own

        self.site = {fact: compiled([], fact) for fact in ("title", "link", "generator", "description")}
        self.site["link"] = compiled([], "link", "a:link[@rel='alternate']/@href")
        self.site["language"] = compiled(dialect.site.language, "language", "dc:language")
        self.site["zone"] = compiled(dialect.site.zone)
        core = {
            "author": ("dc:creator", "author"),
            "published": ("pubDate", "dc:date", "a:published"),
            "updated": ("a:updated",),
            "language": ("dc:language",),
        }
        self.entry = {
            name: compiled(getattr(dialect.entry, name), *core.get(name, ()))
            for name in (
                "id",
                "kind",
                "status",
                "slug",
                "author",
                "published",
                "updated",
                "parent",
                "position",
                "language",
                "lead_picture",
                "other_addresses",
            )
        }
        self.groups = {
            "author": {n: compiled(getattr(dialect.author, n)) for n in ("login", "name", "email", "address", "about")},
            "term": {
                n: compiled(getattr(dialect.term, n)) for n in ("slug", "name", "parent", "vocabulary", "description")
            },
            "media": {
                n: compiled(getattr(dialect.media, n))
                for n in ("path", "address", "media_type", "alternative_text", "caption", "entry")
            },
        }
        self.entry_slug = compiled(dialect.term.entry_slug)
        self.entry_vocabulary = compiled(dialect.term.entry_vocabulary)
        self.fields = [
            (Selector(f.element, names), Selector(f.name, names), Selector(f.value, names))
            for f in dialect.entry.fields
        ]
        self.comment_element: Selector | None = None
        self.groups["comment"] = {}
        if dialect.comment:
            self.comment_element = Selector(dialect.comment.element, names)
            self.groups["comment"] = {
                n: compiled(getattr(dialect.comment, n))
                for n in ("id", "parent", "kind", "status", "author_name", "email", "address", "published", "body")
            }
        self.known = self._known_tags(dialect)

    def _known_tags(self, dialect: Dialect) -> dict[str, set[str]]:
        """For each kind of element the tags of its children that have a place in the model."""

        def tags(*many: Selectors) -> set[str]:
            return {tag for selectors in many for tag in selectors.tags}

        inner = {self.comment_element.tag} if self.comment_element else set()
        fields = {element.tag for element, _name, _value in self.fields}
        top = {
            Selector(text, dialect.namespaces).tag for text in (dialect.author.element, dialect.term.element) if text
        }
        return {
            "site": tags(*self.site.values()) | top | {"item", ATOM + "link"},
            "item": _CORE | tags(*self.entry.values()) | tags(*self.groups["media"].values()) | fields | inner,
            "comment": tags(*self.groups["comment"].values()) | inner,
            "author": tags(*self.groups["author"].values()),
            "term": tags(*self.groups["term"].values()),
        }

    def texts(self, group: str, element: etree._Element) -> dict[str, str]:
        """The facts of one group (`author`, `term`, `media`, `comment`) seen from an element."""
        children = index(element)
        return {name: selectors.first(element, children) for name, selectors in self.groups[group].items()}


class _Item:
    """One item of a channel: an entry with its comments, or a media."""

    def __init__(self, channel: _Channel, element: etree._Element) -> None:
        self.channel, self.element, self.dialect = channel, element, channel.dialect
        self.children = index(element)
        self.where = channel.where(element)
        self.problems: list[Problem] = []
        text = {name: selectors.first(element, self.children) for name, selectors in channel.maps.entry.items()}
        self.text = text
        link, guid, guid_is_link = self._links()
        if not channel.base and link:
            channel.base = address.resolve(link, "/")
        self.permalink = address.resolve(channel.base, link) if link else ""
        self.guid = guid
        self.key = text["id"] or guid or self.permalink or f"{self.where}"
        others = [guid] if guid_is_link and guid != link else []
        others += channel.maps.entry["other_addresses"].each(element, self.children)
        if text["id"]:
            others += [address.expand(pattern, {"id": text["id"]}) for pattern in self.dialect.entry.id_addresses]
        resolved = (address.resolve(channel.base, other) for other in others)
        self.addresses = tuple(dict.fromkeys(other for other in resolved if other != self.permalink))

    def records(self) -> Iterator[Record | Problem]:
        kind = self.dialect.value("kind", self.text["kind"]) or "post"
        if kind == self.dialect.media.kind:
            yield self._media()
        else:
            yield self._entry(kind)
            yield from self._comments()
        yield from self.problems

    def _core(self, tag: str) -> str:
        found = self.children.get(tag)
        return text_of(found[0]).strip() if found else ""

    def _links(self) -> tuple[str, str, bool]:
        """Link, guid, and whether the guid is an address too (RSS 2.0, guid: `isPermaLink`)."""
        link, guids = self._core("link"), self.children.get("guid")
        if not guids:
            return link, "", False
        guid = text_of(guids[0]).strip()
        is_link = guids[0].get("isPermaLink", "true").lower() == "true" and guid.startswith(("http://", "https://"))
        return link or (guid if is_link else ""), guid, is_link

    def _media(self) -> Media:
        text = self.channel.maps.texts("media", self.element)
        base = self.channel.base
        return Media(
            key=self.key,
            address=address.resolve(base, text["address"]) if text["address"] else "",
            addresses=tuple(filter(None, (self.permalink, *self.addresses))),
            path=text["path"],
            media_type=text["media_type"],
            title=self._core("title"),
            alternative_text=text["alternative_text"],
            caption=text["caption"],
            entry=text["entry"],
            extra=self.channel.extra("item", self.element),
            source=self.where,
        )

    def _entry(self, kind: str) -> Entry:
        text, maps = self.text, self.channel.maps
        published = self._date("published")
        authors = [
            self.channel.name_author(name, self.where)
            for name in maps.entry["author"].each(self.element, self.children)
        ]
        categories = [*self.children.get("category", ()), *self.children.get(DC + "subject", ())]
        terms = [self.channel.name_term(one) for one in categories]
        body, summary = self._core_body()
        return Entry(
            key=self.key,
            kind=self._known("kind", kind, ENTRY_KINDS, "document"),
            title=self._core("title") or self._core(DC + "title"),
            slug=text["slug"],
            permalink=self.permalink,
            guid=self.guid,
            addresses=self.addresses,
            status=self._known(
                "status", self.dialect.value("status", text["status"]) or "published", ENTRY_STATES, "private"
            ),
            published=published,
            updated=self._date("updated"),
            authors=tuple(dict.fromkeys(authors)),
            summary=summary,
            body=Body(body, self.dialect.entry.markup),
            terms=tuple(dict.fromkeys(term for term in terms if term)),
            lead_picture=text["lead_picture"],
            parent=text["parent"] if text["parent"] != "0" else "",
            position=self._number("position"),
            language=text["language"],
            fields=self._fields(),
            extra=self.channel.extra("item", self.element),
            source=self.where,
        )

    def _core_body(self) -> tuple[str, str]:
        """Body and summary: a description is the summary only where there is a body of its own."""
        encoded, description = self.children.get(CONTENT), self._core("description")
        return (text_of(encoded[0]), description) if encoded else (description, "")

    def _known(self, what: str, value: str, known: tuple[str, ...], otherwise: str) -> str:
        if value in known:
            return value
        self.problems.append(
            _problem(
                Severity.WARNING,
                f"unknown-{what}",
                f"The {what} {value!r} is not one that the dialect maps; it is read as {otherwise!r}.",
                f"Add {value!r} to [values.{what}] of the dialect.",
                self.where,
                self.key,
            )
        )
        return otherwise

    def _date(self, name: str) -> datetime | None:
        date = self.channel.date(self.text[name])
        if date is None and self.text[name]:
            self._say_no_date(name, self.text[name], self.where)
        return date

    def _say_no_date(self, name: str, text: str, where: Where) -> None:
        self.problems.append(
            _problem(
                Severity.WARNING,
                "no-date",
                f"The {name} date {text!r} is no date.",
                "Set the date by hand on the new host, or correct it in the export.",
                where,
                self.key,
            )
        )

    def _number(self, name: str) -> int | None:
        try:
            return int(self.text[name]) if self.text[name] else None
        except ValueError:
            self.problems.append(
                _problem(
                    Severity.INFO,
                    "no-number",
                    f"The {name} {self.text[name]!r} is no number.",
                    "",
                    self.where,
                    self.key,
                )
            )
            return None

    def _fields(self) -> dict[str, str]:
        fields: dict[str, str] = {}
        for element_selector, name_selector, value_selector in self.channel.maps.fields:
            for element in element_selector.elements(self.element, self.children):
                children = index(element)
                names = name_selector.texts(element, children)
                if names and names[0].strip():
                    value = "\n".join(value_selector.texts(element, children))
                    fields[names[0].strip()] = value.strip()
        return fields

    def _comments(self) -> Iterator[Comment]:
        maps = self.channel.maps
        count = 0
        if self.dialect.comment and maps.comment_element:
            # A stack, not recursion: threads can be nested as deep as an export pleases.
            top = maps.comment_element.elements(self.element, self.children)
            waiting = [(element, "") for element in reversed(top)]
            while waiting:
                element, parent = waiting.pop()
                count += 1
                comment = self._comment(element, parent, count, self.dialect.comment)
                yield comment
                inner = maps.comment_element.elements(element, index(element))
                waiting += [(one, comment.key) for one in reversed(inner)]
        self._check_count(count)

    def _comment(self, element: etree._Element, parent: str, number: int, how: CommentMap) -> Comment:
        text = self.channel.maps.texts("comment", element)
        value = self.dialect.value
        where = self.channel.where(element)
        published = self.channel.date(text["published"])
        if published is None and text["published"]:
            self._say_no_date("comment", text["published"], where)
        status = self._known(
            "comment_status", value("comment_status", text["status"]) or "approved", COMMENT_STATES, "pending"
        )
        kind = self._known("comment_kind", value("comment_kind", text["kind"]) or "comment", COMMENT_KINDS, "comment")
        return Comment(
            key=text["id"] or f"{self.key}#{number}",
            entry=self.key,
            parent=text["parent"] if text["parent"] not in ("", "0") else parent,
            kind=kind,
            author_name=text["author_name"],
            email=text["email"],
            address=text["address"],
            published=published,
            status=status,
            body=Body(text["body"], how.markup),
            extra=self.channel.extra("comment", element),
            source=where,
        )

    def _check_count(self, found: int) -> None:
        """Hold the number of comments against what `slash:comments` says."""
        said = self._core(SLASH_COMMENTS)
        if said.isdigit() and int(said) > found:
            self.problems.append(
                _problem(
                    Severity.WARNING,
                    "comments-missing",
                    f"The export says that this entry has {said} comments; it holds {found}.",
                    "See whether the old host can export its comments apart.",
                    self.where,
                    self.key,
                )
            )


def _kept(element: etree._Element) -> str:
    """An element that no field takes, as text; with its markup where it has attributes or children."""
    if len(element) or element.attrib:
        return etree.tostring(element, encoding="unicode", with_tail=False)
    return (element.text or "").strip()


def _forget(item: etree._Element) -> None:
    """Free an item and all before it: clearing alone lets the list of siblings grow."""
    item.clear()
    parent = item.getparent()
    while parent is not None and item.getprevious() is not None:
        del parent[0]


class _Stream:
    """The part's stream as lxml reads it, with damage turned into a plain message."""

    def __init__(self, source: Input) -> None:
        self.read = reading(source.stream.read, source.label)


def _not_well_formed(error: etree.XMLSyntaxError, label: str) -> Exception:
    line, column = error.position
    what = re.sub(r", line \d+, column \d+( \(.*\))?$", "", error.msg or "it ends too early")
    return stop(
        "not-well-formed",
        f"The XML is not well-formed: {what}.",
        "Correct that place in a text editor, or export the site again.",
        Where(label, line, column),
    )
