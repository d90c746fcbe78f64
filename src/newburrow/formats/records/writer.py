"""JSON records by templates: one template for each kind of record, one file for each, a list of objects.

A template is Jinja2, in a sandbox. What it gives must be one JSON object: what is not is refused, and its entry fails.
"""

from __future__ import annotations

import json
from collections.abc import Collection, Iterable
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import asdict

from newburrow.core.problem import Problem
from newburrow.core.template import TemplateFailed, names_in, rendered
from newburrow.formats.base import Job, Output, Refused
from newburrow.formats.output_parts import Parts
from newburrow.formats.template_facts import OF_ENTRY, unsaid
from newburrow.model import Comment, Media, Record
from newburrow.model.bundle import Bundle
from newburrow.model.keys import bare

_ADVICE = "Correct the template in the folder of the host profile; `| tojson` writes any value as JSON."

_MATTERS = {
    "author": ("email", "address", "about"),
    "term": ("description", "parent"),
    "media": ("alternative_text", "caption"),
}


class RecordOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """The [write] table of a host that takes records."""

    templates: str  # a folder beside the host profile, with KIND.json.j2 for each kind, site, author, term, ...
    folder: str = "records"  # where the files go


class RecordWriter:
    """One site as lists of records."""

    def __init__(self, output: Output, job: Job) -> None:
        self.options = msgspec.convert(job.options, RecordOptions)
        self.output, self.job = output, job
        self.files: dict[str, Parts] = {}
        self.known: set[str] = set()  # authors and terms, which are few
        self.used = {kind: names_in(text) for kind, text in job.templates.items()}
        self._record("site", {})
        for item in job.menus:
            self._record("menu", _facts(item))

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """One record of its kind; authors, terms and comments are records of their own where they have a template."""
        entry = bundle.entry
        comments = [_facts(comment) for comment in bundle.comments]
        facts = {
            **_facts(entry),
            "address": bundle.new_address,
            "comments": comments,
            "body": entry.body.text,
            "authors": [_facts(author) for author in bundle.authors],
            "terms": [_facts(term) for term in bundle.terms],
            "lead_picture": _facts(bundle.lead_picture) if bundle.lead_picture else None,
            "enclosures": [_facts(enclosure) for enclosure in bundle.enclosures],
        }
        if entry.kind not in self.job.templates:
            raise Refused(
                f"the host has no template {entry.kind}.json.j2",
                "Write one, beside those that it has.",
            )
        # All are made and checked before the first is written: an entry is written whole or not at all.
        own = [(entry.kind, self._made(entry.kind, facts))]
        if "comment" in self.job.templates:
            own += [("comment", self._made("comment", comment)) for comment in comments]
        for kind, made in own:
            self._file(kind).check(made)
        for kind, made in own:
            self._put(kind, made)
        problems = list[Problem]()
        for record in (*bundle.authors, *bundle.terms):
            problems += self._once(record)
        return problems + self._unsaid(entry.kind, facts, "entry", entry.key)

    def media(self, media: Media) -> Iterable[Problem]:
        """A record for a file, where there is a template for it."""
        facts = _facts(media)
        self._record("media", facts)
        return self._unsaid("media", facts, "media", media.key)

    def finish(self) -> None:
        """Write the terms that no entry has, and close the lists."""
        for term in self.job.terms:
            self._once(term)
        for file in self.files.values():
            file.close()

    def _once(self, record: Record) -> list[Problem]:
        kind, facts = type(record).__name__.lower(), _facts(record)
        mark = f"{kind} {record.key}"
        if mark in self.known:
            return []
        self.known.add(mark)
        self._record(kind, facts)
        return self._unsaid(kind, facts, kind, record.key)

    def _unsaid(
        self, kind: str, facts: dict[str, Any], object_: str, key: str
    ) -> list[Problem]:
        """What a record has and no template says."""
        used: Collection[str] = self.used.get(kind, frozenset())
        if "comment" in self.used:  # comments have records of their own
            used = {*used, "comments"}
        return unsaid(facts, _MATTERS.get(kind, OF_ENTRY), used, (object_, key))

    def _record(self, kind: str, facts: dict[str, Any]) -> None:
        self._put(kind, self._made(kind, facts))

    def _made(self, kind: str, facts: dict[str, Any]) -> str:
        """A record as its template makes it; empty where the host has none for it."""
        text = self.job.templates.get(kind)
        if text is None:
            return ""
        return _made(text, kind, {**facts, "site": _facts(self.job.site)})

    def _put(self, kind: str, made: str) -> None:
        if made:
            self._file(kind).put(made, ",\n")

    def _file(self, kind: str) -> Parts:
        if kind not in self.files:
            name, limit = f"{self.options.folder}/{kind}.json", self.job.file_bytes
            self.files[kind] = Parts(self.output, name, limit, lambda _number: "[\n", "\n]\n")
        return self.files[kind]


def _made(text: str, kind: str, facts: dict[str, Any]) -> str:
    """What a template makes, on one line. Raises Refused where that is no JSON object."""
    try:
        made = rendered(text, facts, escaped=False)
    except TemplateFailed as error:
        raise Refused(f"the template {kind}.json.j2 fails: {error}", _ADVICE) from None
    try:
        value = json.loads(made)
    except (ValueError, RecursionError) as error:
        raise Refused(
            f"what the template {kind}.json.j2 gives is not JSON: {error}", _ADVICE
        ) from None
    if not isinstance(value, dict):
        raise Refused(f"what the template {kind}.json.j2 gives is not a JSON object", _ADVICE)
    return json.dumps(value, ensure_ascii=False)


def _facts(record: Any) -> dict[str, Any]:
    """A record as a template sees it: plain values, dates in ISO 8601."""
    facts = asdict(record)
    facts["key"] = bare(record.key)
    if isinstance(record, Comment):
        facts["body"] = record.body.text
    return {
        name: value.isoformat() if hasattr(value, "isoformat") else value
        for name, value in facts.items()
        if name not in ("extra", "source")
    }
