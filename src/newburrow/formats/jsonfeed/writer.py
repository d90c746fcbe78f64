"""JSON Feed 1.1: the writer. What the format has no words for goes into our own extension (`own.py`)."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

import msgspec
from msgspec import Struct

from newburrow.core.dates import iso
from newburrow.core.problem import Problem
from newburrow.formats.base import Job, Output
from newburrow.formats.jsonfeed.extension import (
    FILE_FACTS,
    FILES,
    LINE_FACTS,
    OWN,
    PEOPLE_FACTS,
)
from newburrow.formats.output_parts import Parts
from newburrow.model import Comment, Media
from newburrow.model.bundle import Bundle


class JsonFeedOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """The [write] table of a host that takes JSON Feed."""

    file: str = "feed.json"


class JsonFeedWriter:
    """One feed."""

    def __init__(self, output: Output, job: Job) -> None:
        options = msgspec.convert(job.options, JsonFeedOptions)
        self.job = job
        self.parts = Parts(output, options.file, job.file_bytes, self._head, "\n]\n}\n")
        self.in_files = False  # whether the list of items has ended

    def _head(self, number: int) -> str:
        """The beginning of a part; the menus are in the first alone."""
        site, job = self.job.site, self.job
        facts = {
            "version": "https://jsonfeed.org/version/1.1",
            "title": site.title,
            "home_page_url": site.address,
            "description": site.description,
            "language": site.language,
            OWN: {}
            if number > 1
            else _filled(
                {
                    "front_page": site.front_page,
                    "menus": [
                        {name: getattr(item, name) for name in LINE_FACTS} for item in job.menus
                    ],
                }
            ),
        }
        head = "{\n" + "".join(
            f"{_json(name)}: {_json(value)},\n" for name, value in facts.items() if value
        )
        return head + (
            f"{_json('items')}: ["
            if not self.in_files
            else f"{_json('items')}: [],\n{_json(FILES)}: ["
        )

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """One item."""
        entry, lead = bundle.entry, bundle.lead_picture
        if entry.body.markup == "text":
            content = "content_text"
        else:
            content = "content_html"
        names = [author.name for author in bundle.authors]
        several_names = len(set(names)) < len(names)  # they are told apart by their order
        own = {
            "id": entry.key,
            "kind": entry.kind,
            "status": entry.status,
            "slug": entry.slug,
            "parent": entry.parent,
            "position": entry.position,
            "fields": entry.fields,
            "comments": [_comment(comment) for comment in bundle.comments],
            "people": [
                {name: getattr(author, name) for name in PEOPLE_FACTS if getattr(author, name)}
                for author in bundle.authors
                if author.login or author.email or author.about or several_names
            ],
            "terms": [
                {"vocabulary": term.vocabulary, "slug": term.slug, "name": term.name}
                for term in bundle.terms
            ],
        }
        self._put(
            {
                "id": entry.guid or entry.permalink or bundle.new_address,
                "url": bundle.new_address,
                "title": entry.title,
                content: entry.body.text,
                "summary": entry.summary,
                "image": lead.address if lead else "",
                "date_published": iso(entry.published),
                "date_modified": iso(entry.updated),
                "authors": [
                    _filled({"name": author.name, "url": author.address})
                    for author in bundle.authors
                ],
                "tags": list(dict.fromkeys(term.name for term in bundle.terms)),
                "language": entry.language,
                "attachments": [
                    _filled(
                        {
                            "url": enclosure.address,
                            "mime_type": enclosure.media_type or "application/octet-stream",
                            "title": enclosure.title,
                            "size_in_bytes": enclosure.size,
                        }
                    )
                    for enclosure in bundle.enclosures
                ],
                OWN: _filled(own),
            },
        )
        return ()

    def media(self, media: Media) -> Iterable[Problem]:
        """A file, in the list after the items."""
        facts = {name: getattr(media, name) for name in FILE_FACTS}
        if not self.in_files:
            if self.parts.file is None:
                self.parts.begin()
            self.in_files = True
            self.parts.put(_json(_filled(facts)), f"\n],\n{_json(FILES)}: [\n")
        else:
            self._put(facts)
        return ()

    def finish(self) -> None:
        """Close the feed."""
        self.parts.close()

    def _put(self, record: dict[str, Any]) -> None:
        self.parts.put("\n" + _json(_filled(record)), ",")


def _comment(comment: Comment) -> dict[str, Any]:
    return _filled(
        {
            "id": comment.key,
            "parent": comment.parent,
            "kind": comment.kind,
            "status": comment.status,
            "author_name": comment.author_name,
            "email": comment.email,
            "address": comment.address,
            "published": iso(comment.published),
            "content_html": comment.body.text,
        }
    )


def _filled(record: dict[str, Any]) -> dict[str, Any]:
    """Without what says nothing. An item must have a content, be it empty (JSON Feed 1.1, Items)."""
    return {
        name: value
        for name, value in record.items()
        if value not in ("", None, [], {}) or name.startswith("content_")
    }


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False)
