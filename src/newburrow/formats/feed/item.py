"""One item of a feed: an entry with its comments, or a media. A format says where its own facts are."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime

from lxml import etree
from msgspec.structs import replace

from newburrow.core import url, url_pattern
from newburrow.core.dates import is_unset
from newburrow.core.problem import Problem
from newburrow.dialects.schema import NOTHING
from newburrow.dialects.selector import Index, index, kept, text_of
from newburrow.formats.feed import attributes
from newburrow.formats.feed.atom_links import AtomLinks
from newburrow.formats.feed.enclosures import attached
from newburrow.formats.feed.feed_map import ATOM, REPLY
from newburrow.formats.feed.shared import Shared
from newburrow.formats.serialised_list import parts
from newburrow.formats.slug_text import decoded_slug
from newburrow.formats.value_problems import no_date, no_number, not_content, unknown_value
from newburrow.model import (
    COMMENT_KINDS,
    COMMENT_STATES,
    ENTRY_KINDS,
    ENTRY_STATES,
    Body,
    Comment,
    Entry,
    Extra,
    Media,
)
from newburrow.model.reading import Item, Mention, Relation


class FeedItem:
    """One item. Subclasses say what is special to their format."""

    link_relations: tuple[str, ...] = (
        "self",
    )  # of Atom's links: those that are read or say nothing

    def __init__(self, shared: Shared, element: etree._Element) -> None:
        self.shared, self.element, self.dialect = shared, element, shared.dialect
        self.children = index(element)
        self.where = shared.where(element)
        self.problems: list[Problem] = []
        self.unnamed: list[etree._Element] = []  # fields that have no name
        text = shared.maps.texts("entry", element, self.children)
        self.text = text
        if element.base:
            self.base = url.resolve(shared.base, element.base or "")
        else:
            self.base = shared.base
        self.atom_links = AtomLinks(self.children.get(ATOM + "link", ()), self.base)
        link, guid, others = self.links()
        link = text["permalink"] or link
        if not shared.base and link:
            shared.base = self.base = url.resolve(link, "/")
        if link:
            self.permalink = url.resolve(self.base, link)
        else:
            self.permalink = ""
        self.guid = guid
        shared.unnamed += not (text["id"] or guid or self.permalink)
        self.key = text["id"] or guid or self.permalink or f"{self.where} #{shared.unnamed}"
        others += shared.maps.entry["other_addresses"].each(element, self.children)
        others += self.atom_links.other_pages(self.is_own_address)
        if text["id"]:
            others += [
                url_pattern.expand(pattern, {"id": text["id"]})
                for pattern in self.dialect.entry.id_addresses
            ]
        resolved = (url.resolve(self.base, other) for other in others)
        self.addresses = tuple(
            dict.fromkeys(other for other in resolved if other != self.permalink)
        )

    # -- what formats differ in ----------------------------------------------------------------

    def links(self) -> tuple[str, str, list[str]]:
        """Permalink, lasting identifier, and other addresses, as they are written."""
        raise NotImplementedError

    def title(self) -> str:
        """The title as plain text."""
        raise NotImplementedError

    def bodies(self) -> tuple[Body, str]:
        """Body and summary."""
        raise NotImplementedError

    def authors(self) -> list[str]:
        """Keys of the authors."""
        raise NotImplementedError

    def terms(self) -> list[str]:
        """Keys of the terms; empty ones are passed over."""
        raise NotImplementedError

    def status(self) -> str:
        """The state of the item if the dialect gives none."""
        return "published"

    def feeds(self) -> list[str]:
        """Addresses of feeds about this item alone."""
        return []

    def extra(self, group: str) -> Extra:
        """The content that has no place in the model; `group` is `item` for an entry, `media` for a file."""
        maps = self.shared.maps
        own = attributes.unread([self.element], maps.attributes)
        extra = maps.extra(group, self.children) | {f"@{name}": own[name] for name in own}
        extra.pop(ATOM + "link", None)
        read = (self.permalink, *self.addresses)
        if links := self.atom_links.unread(self.link_relations, read):
            extra[ATOM + "link"] = links
        return extra

    # -- what they share -----------------------------------------------------------------------

    def is_own_address(self, text: str) -> bool:
        """Whether an identifier is an address on the site for this item alone, such as one by its number."""
        site = url.site_key(self.base)
        if not site or url.site_key(text) != site:
            return False
        return url.key(text) != url.key(url.resolve(text, "/"))

    def records(self) -> Iterator[Item | Problem]:
        """The item's record, its comments, and what to report about them."""
        kind = self.dialect.value("kind", self.text["kind"]) or "post"
        if kind == NOTHING:
            yield not_content(self.text["kind"], self.where)
            return
        if self.dialect.comment:
            replies = self.dialect.comment.items
        else:
            replies = ""
        if kind == self.dialect.media.kind:
            yield self.media()
        elif (replies and kind == replies) or (
            REPLY in self.children and not self.text["kind"]
        ):
            comment = self.reply()
            yield comment
            yield from self._commenter(comment, self.element, self.children)
        else:
            yield from self._entry(kind)
        yield from self._comments()
        yield from self.problems

    def core(self, tag: str) -> str:
        """The text of the first child with this tag; empty if there is none."""
        found = self.children.get(tag)
        if found:
            return text_of(found[0]).strip()
        return ""

    def media(self) -> Media:
        """The item as a file."""
        text = self.shared.maps.texts("media", self.element, self.children)
        return Media(
            key=self.key,
            address=url.resolve(self.base, text["address"]) if text["address"] else "",
            addresses=tuple(filter(None, (self.permalink, *self.addresses))),
            path=text["path"],
            media_type=text["media_type"],
            title=self.title(),
            alternative_text=text["alternative_text"],
            caption=text["caption"],
            entry=text["entry"],
            extra=self.extra("media") | self._facts_of_file(text["caption"]),
            source=self.where,
        )

    def _facts_of_file(self, caption: str) -> Extra:
        """What is known of an entry and has no place in a file."""
        names = (
            "published",
            "updated",
            "author",
            "slug",
            "language",
            "position",
            "lead_picture",
        )
        facts = {name: [self.text[name]] for name in names if self.text[name]}
        body, summary = self.bodies()
        facts |= {
            name: [text]
            for name, text in (("body", body.text), ("summary", summary))
            if text.strip() and text.strip() != caption
        }
        status = self.dialect.value("status", self.text["status"]) or self.status()
        return facts | ({"status": [status]} if status != "published" else {}) | self.filed()

    def filed(self) -> Extra:
        """Terms and named metadata, as they are kept for what has no place for them."""
        found = {f"field {name}": [value] for name, value in self._fields().items()}
        terms = [term for term in self.terms() if term]
        return found | ({"terms": terms} if terms else {})

    def _entry(self, kind: str) -> Iterator[Item]:
        text = self.text
        published = self._date("published")
        body, summary = self._own_bodies()
        files = attached(self.children, self.base, self.where)
        for media in files.files:
            yield Mention(replace(media, entry=self.key))
        fields, extra = self._fields(), self.extra("item")
        for element in self.unnamed:
            extra.setdefault(str(element.tag), []).append(kept(element))
        if files.thumbnail and text["lead_picture"]:
            extra |= {"thumbnail": [files.thumbnail]}
        yield Entry(
            key=self.key,
            kind=self.known("kind", kind, ENTRY_KINDS, "document"),
            title=text["title"] or self.title(),
            slug=decoded_slug(text["slug"]),
            permalink=self.permalink,
            guid=self.guid,
            addresses=self.addresses,
            status=self.known(
                "status",
                self.dialect.value("status", text["status"]) or self.status(),
                ENTRY_STATES,
                "private",
            ),
            published=published,
            updated=self._date("updated"),
            authors=tuple(dict.fromkeys(filter(None, self.authors()))),
            summary=summary,
            body=body,
            terms=tuple(dict.fromkeys(term for term in self.terms() if term)),
            lead_picture=text["lead_picture"] or files.thumbnail,
            enclosures=tuple(media.key for media in files.files),
            feeds=tuple(url.resolve(self.base, feed) for feed in self.feeds()),
            parent=text["parent"] if text["parent"] != "0" else "",
            position=self._number("position"),
            language=text["language"],
            fields=fields,
            extra=extra,
            source=self.where,
        )

    def _own_bodies(self) -> tuple[Body, str]:
        """Body and summary: where the dialect says they are, else where the format has them."""
        body, summary = self.bodies()
        own = self.shared.maps.own_body(self.element, self.children)
        if own:
            body = replace(body, text=own, markup=self.markup())
        return body, self.text["summary"] or summary

    def reply(self) -> Comment:
        """An item that is a comment; to which entry it belongs may be known only when all is read."""
        text = self.shared.maps.texts("comment", self.element, self.children)
        about = self.children.get(REPLY, ())
        body, summary = self.bodies()
        if about:
            entry = text["entry"] or (about[0].get("ref") or about[0].get("href") or "").strip()
        else:
            entry = text["entry"]
        return replace(
            self._comment(self.element, self.children, text["parent"], 0),
            key=text["id"] or self.key,
            entry=url.resolve(self.base, entry) if entry.startswith(("/", "?")) else entry,
            author_name=text["author_name"] or self.text["author"],
            published=self.shared.date(text["published"] or self.text["published"], "comment"),
            body=Body(text["body"], self.markup_of_comments()) if text["body"] else body,
            extra=self.extra("reply") | self._facts_of_reply(summary),
        )

    def _facts_of_reply(self, summary: str) -> Extra:
        """What an item says and a comment has no place for."""
        facts = {
            "title": self.title(),
            "permalink": self.permalink,
            "summary": summary,
            "updated": self.text["updated"],
        }
        return {name: [text] for name, text in facts.items() if text} | self.filed()

    def markup(self) -> str:
        """The markup of the body: as the item names it, where the dialect says that it does."""
        named = self.dialect.value("markup", self.text["markup_named"])
        if named in self.shared.markups:
            return named
        return self.dialect.entry.markup

    def markup_of_comments(self) -> str:
        """The markup of comments."""
        if self.dialect.comment:
            return self.dialect.comment.markup
        return "html"

    def known(self, fact_name: str, value: str, known: tuple[str, ...], otherwise: str) -> str:
        """The value if it is one of `known`; any other is reported, and read as `otherwise`."""
        if value in known:
            return value
        self.problems.append(unknown_value(fact_name, value, otherwise, self.where, self.key))
        return otherwise

    def _date(self, name: str) -> datetime | None:
        date = self.shared.date(self.text[name], name)
        if date is None and self.text[name] and not is_unset(self.text[name]):
            self.problems.append(no_date(name, self.text[name], self.where, self.key))
        return date

    def _number(self, name: str) -> int | None:
        try:
            if self.text[name]:
                return int(self.text[name])
            return None
        except ValueError:
            self.problems.append(no_number(name, self.text[name], self.where, self.key))
            return None

    def _fields(self) -> dict[str, str]:
        fields: dict[str, str] = {}
        for element_selector, name_selector, value_selector, lists in self.shared.maps.fields:
            for element in element_selector.elements(self.element, self.children):
                children = index(element)
                names = name_selector.texts(element, children)
                if not (names and names[0].strip()):
                    self.unnamed.append(element)
                else:
                    texts = value_selector.texts(element, children)
                    if lists:
                        texts = [part for text in texts for part in parts(text)]
                    name = names[0].strip()
                    fields[name] = "\n".join(filter(None, (fields.get(name), *texts))).strip()
        return fields

    def _commenter(
        self, comment: Comment, element: etree._Element, children: Index
    ) -> Iterator[Relation]:
        """The author of a comment, where it names one that the export declares."""
        word = self.shared.maps.texts("comment", element, children)["author"]
        if word:
            yield Relation(comment.key, "comment_author", word, source=comment.source)

    def _comments(self) -> Iterator[Comment | Relation]:
        maps = self.shared.maps
        count = 0
        if self.dialect.comment and maps.comment_element:
            # A stack, not recursion: an export can nest threads to any depth.
            top = maps.comment_element.elements(self.element, self.children)
            waiting = [(element, "") for element in reversed(top)]
            while waiting:
                element, parent = waiting.pop()
                count += 1
                children = index(element)
                comment = self._comment(element, children, parent, count)
                yield comment
                yield from self._commenter(comment, element, children)
                inner = maps.comment_element.elements(element, children)
                waiting += [(element, comment.key) for element in reversed(inner)]
        self.check_count(count)

    def _comment(
        self, element: etree._Element, children: Index, parent: str, number: int
    ) -> Comment:
        text = self.shared.maps.texts("comment", element, children)
        value = self.dialect.value
        where = self.shared.where(element)
        published = self.shared.date(text["published"], "comment")
        if published is None and text["published"] and not is_unset(text["published"]):
            self.problems.append(no_date("comment", text["published"], where, self.key))
        status = self.known(
            "comment_status",
            value("comment_status", text["status"]) or "approved",
            COMMENT_STATES,
            "pending",
        )
        kind = self.known(
            "comment_kind",
            value("comment_kind", text["kind"]) or "comment",
            COMMENT_KINDS,
            "comment",
        )
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
            body=Body(text["body"], self.markup_of_comments()),
            extra=self.shared.maps.extra("comment", children),
            source=where,
        )

    def check_count(self, found: int) -> None:
        """Report if the number of comments found is not the number that the item states."""
