"""JSON records by templates: one template for each kind of record, one file for each, a list of objects.

A template is Jinja2, in a sandbox. What it gives must be one JSON object: what is not is refused, and its entry fails.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import asdict

from newburrow.formats.base import Job, Output, Refused
from newburrow.formats.template import compiled
from newburrow.formats.xmlout import Pieces
from newburrow.model import Author, Bundle, Comment, Media, Term
from newburrow.problem import Problem
from newburrow.scope import bare

_ADVICE = "Correct the template in the folder of the host profile; `| tojson` writes any value as JSON."


class RecordOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """The [write] table of a host that takes records."""

    templates: str  # a folder beside the host profile, with KIND.json.j2 for each kind, site, author, term, ...
    folder: str = "records"  # where the files go


class RecordWriter:
    """One site as lists of records."""

    def __init__(self, output: Output, job: Job) -> None:
        self.options = msgspec.convert(job.options, RecordOptions)
        self.output, self.job = output, job
        self.files: dict[str, Pieces] = {}
        self.known: set[str] = set()  # authors and terms, which are few
        self._record("site", {})

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """One record of its kind; authors, terms and comments are records of their own where they have a template."""
        entry = bundle.entry
        comments = [_facts(one) for one in bundle.comments]
        self._record(entry.kind, {
            **_facts(entry), "address": bundle.new_address, "comments": comments, "body": entry.body.text,
            "authors": [_facts(one) for one in bundle.authors], "terms": [_facts(one) for one in bundle.terms],
            "lead_picture": _facts(bundle.lead_picture) if bundle.lead_picture else None,
            "enclosures": [_facts(one) for one in bundle.enclosures],
        }, needed=True)  # fmt: skip
        for author in bundle.authors:
            self._once(author)
        for term in bundle.terms:
            self._once(term)
        for comment in comments:
            self._record("comment", comment)
        return ()

    def media(self, media: Media) -> Iterable[Problem]:
        """A record for a file, where there is a template for it."""
        self._record("media", _facts(media))
        return ()

    def finish(self) -> None:
        """Close the lists."""
        for file in self.files.values():
            file.put("\n]\n")
            file.close()

    def _once(self, record: Author | Term) -> None:
        mark = f"{type(record).__name__} {record.key}"
        if mark not in self.known:
            self.known.add(mark)
            self._record(type(record).__name__.lower(), _facts(record))

    def _record(self, kind: str, facts: dict[str, Any], needed: bool = False) -> None:
        text = self.job.templates.get(kind)
        if text is None:
            if needed:
                raise Refused(f"the host has no template {kind}.json.j2", "Write one, beside those that it has.")
            return
        made = _made(text, kind, {**facts, "site": _facts(self.job.site)})
        if kind not in self.files:
            self.files[kind] = Pieces(self.output.open(f"{self.options.folder}/{kind}.json"))
            self.files[kind].put("[\n" + made)
        else:
            self.files[kind].put(",\n" + made)


def _made(text: str, kind: str, facts: dict[str, Any]) -> str:
    """What a template makes, on one line. Raises Refused where that is no JSON object."""
    from jinja2 import TemplateError  # heavy: imported where it is used

    try:
        made = compiled(text, escaped=False).render(facts)
    except (TemplateError, TypeError, ValueError, ArithmeticError, LookupError, AttributeError) as error:
        raise Refused(f"the template {kind}.json.j2 fails: {error}", _ADVICE) from None
    try:
        value = json.loads(made)
    except (ValueError, RecursionError) as error:
        raise Refused(f"what the template {kind}.json.j2 gives is not JSON: {error}", _ADVICE) from None
    if not isinstance(value, dict):
        raise Refused(f"what the template {kind}.json.j2 gives is no JSON object", _ADVICE)
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
