"""JSON Feed 1.0 and 1.1: the reader, streamed. Extensions and what the model lacks are kept in `extra`.

Of our own extension, which the writer makes, everything is read.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Any

from newburrow.core import url
from newburrow.core.dates import parse_date
from newburrow.core.problem import Problem
from newburrow.formats import json_stream
from newburrow.formats.base import Input
from newburrow.formats.jsonfeed.extension import (
    FILE_FACTS,
    FILES,
    OWN,
    own_comments,
    own_facts,
    own_fields,
    own_menus,
    own_people,
)
from newburrow.formats.people import People
from newburrow.formats.records.record_view import text_of_value
from newburrow.formats.value_problems import no_date
from newburrow.model import Author, Body, Entry, Extra, Media, Site, Term, Where
from newburrow.model.reading import Item, Mention

_SITE = {
    "title": "title",
    "home_page_url": "address",
    "description": "description",
    "language": "language",
}
# fields that other hosts may have a place for
_FIELDS = (
    "external_url",
    "banner_image",
)
_READ = frozenset(
    (
        "id",
        "url",
        "title",
        "content_html",
        "content_text",
        "summary",
        "image",
        "attachments",
        "date_published",
        "date_modified",
        "author",
        "authors",
        "tags",
        "language",
        OWN,
        *_FIELDS,
    )
)
_OF_FILE = ("url", "mime_type", "title", "size_in_bytes")
_ITEM = ("items", None)
_FILE = (FILES, None)


class JsonFeedReader:
    """One pass over one feed."""

    def __init__(self, source: Input) -> None:
        """The records come from `records`."""
        self.source, self.where = source, Where(source.label)
        self.facts: dict[str, Any] = {}
        self.people = People()
        self.terms: dict[str, Term] = {}  # few; everything else is streamed

    def records(self) -> Iterator[Item | Problem]:
        """All records of the feed."""
        count = 0
        for found in json_stream.values(self.source.stream, self.source.label, _wanted):
            if found.steps == _ITEM:
                if not count:
                    yield Mention(self._site())
                count += 1
                self.where = Where(self.source.label, found.line)
                item = found.value
                yield from (
                    self._item(item, count)
                    if isinstance(item, dict)
                    else [self._no_item(item, count)]
                )
                self.source.progress(count)
            elif found.steps == _FILE:
                yield from self._file(found.value)
            else:
                self.facts[str(found.steps[0])] = found.value
        yield self._site()
        yield from own_menus(self.facts.get(OWN), self.where)
        yield from map(Mention, self.people.authors())
        yield from map(Mention, self.terms.values())

    def _site(self) -> Site:
        own: dict[str, Any] = {
            ours: str(self.facts.get(theirs) or "") for theirs, ours in _SITE.items()
        }
        known = (*_SITE, "version", "authors", "author", OWN)
        extension = self.facts.get(OWN)
        if isinstance(extension, dict):
            own["front_page"] = _text(extension.get("front_page"))
        else:
            own["front_page"] = ""
        extra = {
            name: [_text(value)] for name, value in self.facts.items() if name not in known
        }
        return Site(key="site", **own, extra=extra, source=self.where)

    def _no_item(self, item: object, number: int) -> Problem:
        return Problem.at(self.where, "no-item", number=number, value=_text(item)[:60])

    def _item(self, item: dict[str, Any], number: int) -> Iterator[Item | Problem]:
        base = str(self.facts.get("home_page_url") or self.source.base)
        link = _text(item.get("url"))
        if link:
            permalink = url.resolve(base, link)
        else:
            permalink = ""
        own = item.get(OWN)
        if isinstance(own, dict):
            known = _text(own.get("id"))
        else:
            known = ""
        key = known or _text(item.get("id")) or permalink or f"item {number}"
        published, modified = (
            self._date(item, "date_published"),
            self._date(item, "date_modified"),
        )
        html = item.get("content_html")
        if html is not None:
            body = Body(str(html), "html")
        else:
            body = Body(_text(item.get("content_text")), "text")
        files = list(self._files(item, key))
        yield from map(Mention, files)
        if isinstance(own, dict):
            more, problems = own_facts(own, self.where, key)
        else:
            more, problems = ({}, [])
        yield from problems
        yield Entry(
            key=key,
            title=_text(item.get("title")),
            permalink=permalink,
            guid=_text(item.get("id")),
            published=published,
            updated=modified,
            authors=tuple(dict.fromkeys(self._authors(item))),
            summary=_text(item.get("summary")),
            body=body,
            terms=tuple(dict.fromkeys(self._terms(item))),
            **more,
            lead_picture=_text(item.get("image")),
            enclosures=tuple(file.key for file in files),
            language=_text(item.get("language")),
            fields={name: _text(item[name]) for name in _FIELDS if item.get(name)}
            | own_fields(own),
            extra=_extra(item),
            source=self.where,
        )
        yield from own_comments(own, key, self.where)
        for name, date in (("date_published", published), ("date_modified", modified)):
            if item.get(name) and date is None:
                yield no_date(name, _text(item[name]), self.where, key)

    def _date(self, item: dict[str, Any], name: str) -> datetime | None:
        if item.get(name):
            return parse_date(_text(item.get(name)))
        return None

    def _files(self, item: dict[str, Any], key: str) -> Iterator[Media]:
        """Its attachments."""
        attachments = item.get("attachments")
        for attachment in attachments if isinstance(attachments, list) else []:
            if isinstance(attachment, dict):
                named = _text(attachment.get("url"))
            else:
                named = ""
            if named:
                size = attachment.get("size_in_bytes")
                more = {
                    name: [_text(value)]
                    for name, value in attachment.items()
                    if name not in _OF_FILE and value is not None
                }
                new = url.resolve(
                    str(self.facts.get("home_page_url") or self.source.base), named
                )
                yield Media(
                    key=new,
                    address=new,
                    media_type=_text(attachment.get("mime_type")),
                    title=_text(attachment.get("title")),
                    size=size if isinstance(size, int) and 0 <= size < 1 << 62 else 0,
                    entry=key,
                    extra=more,
                    source=self.where,
                )

    def _authors(self, item: dict[str, Any]) -> Iterator[str]:
        """`authors` of version 1.1, `author` of 1.0, else those of the feed."""
        people = (
            item.get("authors")
            or item.get("author")
            or self.facts.get("authors")
            or self.facts.get("author")
            or []
        )
        more_of = own_people(item.get(OWN))
        for person in people if isinstance(people, list) else [people]:
            if not isinstance(person, dict):
                person = {"name": person}
            name = _text(person.get("name"))
            further = more_of.get(name, [])
            if further:
                more = further.pop(0)
            else:
                more = {}
            extra: Extra = {"avatar": [_text(person["avatar"])]} if person.get("avatar") else {}
            author = Author(
                key="",
                name=name,
                address=_text(person.get("url")),
                extra=extra,
                source=self.where,
                **more,
            )
            key = self.people.add(author)
            if key:
                yield key

    def _file(self, value: object) -> Iterator[Media]:
        """A file as our own extension tells of it."""
        if isinstance(value, dict) and value.get("address"):
            facts: dict[str, Any] = {name: _text(value.get(name)) for name in FILE_FACTS}
            yield Media(key=facts["address"], **facts, source=self.where)

    def _terms(self, item: dict[str, Any]) -> Iterator[str]:
        own = item.get(OWN)
        if isinstance(own, dict):
            filed = own.get("terms")
        else:
            filed = None
        for tag in filed if isinstance(filed, list) else []:
            facts: dict[str, str] = {}
            if isinstance(tag, dict):
                facts = {name: _text(tag.get(name)) for name in ("vocabulary", "slug", "name")}
            if all(facts.get(name) for name in ("vocabulary", "name")):
                facts["slug"] = facts["slug"] or facts["name"]
                term = Term(
                    key=f"{facts['vocabulary']}/{facts['slug']}",
                    vocabulary=facts["vocabulary"],
                    slug=facts["slug"],
                    name=facts["name"],
                    source=self.where,
                )
                self.terms.setdefault(term.key, term)
                yield term.key
        if not filed:
            tags = item.get("tags")
        else:
            tags = None
        for name in map(_text, tags if isinstance(tags, list) else []):
            if name:
                key = f"tag/{name}"
                term = Term(key=key, slug=name, name=name, source=self.where)
                self.terms.setdefault(key, term)
                yield key


def _wanted(steps: json_stream.Steps) -> bool:
    """Each item, and each other fact of the feed."""
    return steps in (_ITEM, _FILE) or (len(steps) == 1 and steps[0] not in ("items", FILES))


def _extra(item: dict[str, Any]) -> Extra:
    extra = {
        name: [_text(value)]
        for name, value in item.items()
        if name not in _READ and value not in (None, "")
    }
    if item.get("content_html") is not None and item.get("content_text"):
        extra["content_text"] = [_text(item["content_text"])]
    return extra


def _text(value: Any) -> str:
    return text_of_value(value).strip()
