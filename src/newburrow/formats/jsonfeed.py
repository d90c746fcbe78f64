"""JSON Feed 1.0 and 1.1: the reader, streamed. Extensions and what the model lacks are kept in `extra`."""

from __future__ import annotations

import json
from collections.abc import Iterator
from datetime import datetime
from typing import Any

import ijson
from ijson.common import ObjectBuilder

from newburrow import address
from newburrow.formats.base import Format, Input
from newburrow.formats.dates import parse_date
from newburrow.intake.part import Head
from newburrow.model import Author, Body, Entry, Extra, Record, Site, Term, Where
from newburrow.problem import Problem, Severity, stop

_MARK = b"jsonfeed.org/version/1"
_SITE = {"title": "title", "home_page_url": "address", "description": "description", "language": "language"}
_FIELDS = ("external_url", "banner_image")  # named metadata that other hosts may have a place for
_READ = frozenset((
    "id", "url", "title", "content_html", "content_text", "summary", "image", "date_published", "date_modified",
    "author", "authors", "tags", "language", *_FIELDS,
))  # fmt: skip
_DEEPEST = 200  # levels; no feed needs them, and what handles values calls itself for each
_STARTS, _ENDS = ("start_map", "start_array"), ("end_map", "end_array")

Events = Iterator[tuple[str, str, Any]]


class JsonFeed(Format):
    """JSON Feed."""

    name = "jsonfeed"
    title = "JSON Feed 1.0 and 1.1"

    def recognise(self, head: Head) -> bool:
        """Whether it is a JSON object that says it is a JSON Feed."""
        return head.start.removeprefix(b"\xef\xbb\xbf").lstrip().startswith(b"{") and _MARK in head.start

    def read(self, source: Input) -> Iterator[Record | Problem]:
        """The feed as a site, its items as posts, with the authors and tags they name."""
        return _Feed(source).records()


FORMAT = JsonFeed()


class _Feed:
    """One pass over one feed."""

    def __init__(self, source: Input) -> None:
        self.source, self.where = source, Where(source.label)
        self.facts: dict[str, Any] = {}
        self.named: dict[str, Author | Term] = {}  # few; all else is streamed

    def records(self) -> Iterator[Record | Problem]:
        count = 0
        try:
            events: Events = iter(ijson.parse(_WithoutMark(self.source.stream)))
            for prefix, event, value in events:
                if prefix == "items.item":
                    count += 1
                    item = _built(events, event, value)
                    yield from self._item(item, count) if isinstance(item, dict) else [self._no_item(item, count)]
                    self.source.progress(count)
                elif prefix and prefix != "items" and event not in ("map_key", *_ENDS):
                    self.facts[prefix] = _built(events, event, value)
        except (ijson.JSONError, UnicodeDecodeError) as error:
            raise _not_json(error, self.source.label) from None
        yield self._site()
        yield from self.named.values()

    def _site(self) -> Site:
        own = {ours: str(self.facts.get(theirs) or "") for theirs, ours in _SITE.items()}
        known = (*_SITE, "version", "authors", "author")
        extra = {name: [_text(value)] for name, value in self.facts.items() if name not in known}
        return Site(key="site", **own, extra=extra, source=self.where)

    def _no_item(self, item: object, number: int) -> Problem:
        return Problem(Severity.WARNING, "no-item", f"Item {number} is no object but {_text(item)[:60]!r}.",
                       "Correct it in the export.", self.where)  # fmt: skip

    def _item(self, item: dict[str, Any], number: int) -> Iterator[Record | Problem]:
        base = str(self.facts.get("home_page_url") or "")
        link = _text(item.get("url"))
        permalink = address.resolve(base, link) if link else ""
        key = _text(item.get("id")) or permalink or f"item {number}"
        published, modified = self._date(item, "date_published"), self._date(item, "date_modified")
        html = item.get("content_html")
        body = Body(str(html), "html") if html is not None else Body(_text(item.get("content_text")), "text")
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
            lead_picture=_text(item.get("image")),
            language=_text(item.get("language")),
            fields={name: _text(item[name]) for name in _FIELDS if item.get(name)},
            extra=_extra(item),
            source=self.where,
        )
        for name, date in (("date_published", published), ("date_modified", modified)):
            if item.get(name) and date is None:
                yield Problem(Severity.WARNING, "no-date", f"The {name} {item[name]!r} is no date.",
                              "Set the date by hand on the new host, or correct it in the export.", self.where,
                              "entry", key)  # fmt: skip

    def _date(self, item: dict[str, Any], name: str) -> datetime | None:
        return parse_date(_text(item.get(name))) if item.get(name) else None

    def _authors(self, item: dict[str, Any]) -> Iterator[str]:
        """`authors` of version 1.1, `author` of 1.0, else those of the feed."""
        people = (
            item.get("authors") or item.get("author") or self.facts.get("authors") or self.facts.get("author") or []
        )
        for one in people if isinstance(people, list) else [people]:
            name = _text(one.get("name") or one.get("url")) if isinstance(one, dict) else ""
            if name:
                more: Extra = {"avatar": [_text(one["avatar"])]} if one.get("avatar") else {}
                author = Author(key=name, name=name, address=_text(one.get("url")), extra=more, source=self.where)
                self.named.setdefault(f"Author {name}", author)
                yield name

    def _terms(self, item: dict[str, Any]) -> Iterator[str]:
        tags = item.get("tags")
        for name in map(_text, tags if isinstance(tags, list) else []):
            if name:
                key = f"tag/{name}"
                self.named.setdefault(f"Term {key}", Term(key=key, slug=name, name=name, source=self.where))
                yield key


class _WithoutMark:
    """The stream without a byte order mark, which RFC 8259 section 8.1 lets a parser ignore."""

    def __init__(self, stream: Any) -> None:
        self._stream, self._first = stream, True

    def read(self, size: int) -> bytes:
        data: bytes = self._stream.read(size)
        if self._first and size:
            self._first = False
            data = data.removeprefix(b"\xef\xbb\xbf")
        return data


def _built(events: Events, event: str, value: Any) -> Any:
    """The value that begins with this event, whole."""
    builder = ObjectBuilder()
    builder.event(event, value)
    depth = int(event in _STARTS)
    while depth:
        _prefix, event, value = next(events)
        builder.event(event, value)
        depth += (event in _STARTS) - (event in _ENDS)
        if depth > _DEEPEST:
            raise ijson.JSONError(f"nesting: lists or objects are nested deeper than {_DEEPEST} levels")
    return builder.value


def _text(value: Any) -> str:
    """A value as text; an object or a list as JSON."""
    if value is None:
        return ""
    return (
        value.strip()
        if isinstance(value, str)
        else json.dumps(value, ensure_ascii=False, sort_keys=True, default=float)
    )


def _extra(item: dict[str, Any]) -> Extra:
    extra = {name: [_text(value)] for name, value in item.items() if name not in _READ and value not in (None, "")}
    if item.get("content_html") is not None and item.get("content_text"):
        extra["content_text"] = [_text(item["content_text"])]
    return extra


def _not_json(error: Exception, label: str) -> Exception:
    lines = [line for line in str(error).splitlines() if line.strip()]
    what = lines[0].partition(": ")[2] or lines[0] if lines else "it ends too early"
    return stop("not-well-formed", f"The JSON is not valid: {what.rstrip('.')}.",
                "Correct that place in a text editor, or export the site again.", Where(label),
                "\n".join(lines[1:3]))  # fmt: skip
