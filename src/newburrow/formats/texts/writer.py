"""A folder of texts: the writer. Each entry is a file at the path of its address, with its facts as front matter.

What a text cannot hold goes into data files in JSON Lines: comments, facts of files, authors and terms that have
more than a name. A file of the entry's own, `site.json`, says what the site is.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable
from typing import Any, Literal
from urllib.parse import unquote

import msgspec
from msgspec import Struct, field

from newburrow.core import url
from newburrow.core.dates import iso
from newburrow.core.problem import Problem
from newburrow.formats.base import Job, Output
from newburrow.formats.output_parts import Parts, check_size
from newburrow.model import Author, Comment, Media, MenuItem, Revision, Term
from newburrow.model.bundle import Bundle

# signs of page names that the names of files cannot have on every system, and the one that stands for them
_NOT_IN_FILES = re.compile(r'[/%:*"<>|?\\\x00-\x1f]')
_NAMES = {"published": "date", "updated": "updated"}


class TextOptions(Struct, frozen=True, forbid_unknown_fields=True):
    """The [write] table of a host that takes a folder of texts."""

    folder: str = "texts"  # of the texts
    data: str = "facts"  # of the data files
    history: str = "history"  # of what texts said before
    # where a text lies: by its address, or by the last name of that alone
    paths: Literal["address", "name"] = "address"
    # vocabulary -> the key that its terms are under in front matter; others are under their own name
    terms: dict[str, str] = field(
        default_factory=lambda: {"tag": "tags", "category": "categories"}
    )


class TextWriter:
    """One folder being written."""

    def __init__(self, output: Output, job: Job, extension: str) -> None:
        """`extension` is that of the texts, with its dot."""
        self.extension = extension
        self.options = msgspec.convert(job.options, TextOptions)
        self.output, self.site = output, job.site
        self.limit = job.file_bytes
        self._unused = {term.key: term for term in job.terms}  # until an entry has them
        self._data: dict[str, Parts] = {}
        self._renamed: dict[str, str] = {}  # of texts whose place was taken: address -> place
        self._written: set[str] = set()  # authors and terms written, which are few
        with output.open("site.json") as stream:
            names = ("title", "address", "language", "zone", "description", "front_page")
            facts = {
                name: getattr(job.site, name)
                for name in names
                if name != "front_page" or job.site.front_page
            }
            stream.write(json.dumps(facts, ensure_ascii=False, indent=2).encode() + b"\n")
        for item in job.menus:
            self._line("menu", _of_line(item))

    def entry(self, bundle: Bundle) -> Iterable[Problem]:
        """The text of one entry, and its comments as data."""
        path = self._free_path(bundle.new_address)
        front = self._front(bundle, path)
        made = _text(front, bundle.entry.body.text)
        answers = [_line(_of_comment(comment, bundle.entry.key)) for comment in bundle.comments]
        check_size(max(len(made), *(len(line.encode()) for line in answers), 0), self.limit)
        with self.output.open(f"{self.options.folder}/{path}{self.extension}") as stream:
            stream.write(made)
        for author in bundle.authors:
            if author.email or author.address or author.about or author.login:
                self._once("authors", author.name, _of_author(author))
        for term in bundle.terms:
            self._unused.pop(term.key, None)
            if term.description or term.slug != term.name or term.parent:
                self._once("terms", term.key, _of_term(term))
        for line in answers:
            self._put("comments", line)
        return []

    def _free_path(self, new: str) -> str:
        """Where a text will lie: elsewhere where its place is taken, as `/pear/` and `/pear.html` would be one file."""
        path, folder = self._path(new), self.options.folder
        name = self.output.free_name(f"{folder}/{path}{self.extension}")
        free = name.removeprefix(f"{folder}/").removesuffix(self.extension)
        if free != path:
            self._renamed[new] = free
        return free

    def _path(self, new: str) -> str:
        """Where a text lies: as its address says, below the site. No part of it can lead elsewhere."""
        if new in self._renamed:
            return self._renamed[new]
        if self.options.paths == "name":
            address = url.split(new)
            whole = address.path if address else ""
            last = unquote(whole.rstrip("/").rpartition("/")[2])
            return _NOT_IN_FILES.sub(lambda sign: f"%{ord(sign[0]):02X}", last) or "index"
        base = url.path_of(self.site.address).strip("/")
        path = url.path_of(new).removeprefix(base).strip("/")
        parts = [part for part in path.split("/") if part not in ("", ".", "..")]
        return "/".join(parts).removesuffix(".html").removesuffix(self.extension) or "index"

    def revision(self, revision: Revision, new_address: str) -> Iterable[Problem]:
        """What a text said before, in a file of its own named by its number."""
        facts = {
            "id": revision.key,
            "entry": revision.entry,
            "number": str(revision.number),
            "author": revision.author,
            "date": iso(revision.published),
            "title": revision.title,
            "note": revision.note,
            "minor": "true" if revision.minor else "",
        }
        front = {name: value for name, value in facts.items() if value}
        made = _text(front, revision.body.text)
        check_size(len(made), self.limit)
        folder = f"{self.options.history}/{self._path(new_address)}"
        with self.output.open(f"{folder}/{revision.number:05}{self.extension}") as stream:
            stream.write(made)
        return []

    def _front(self, bundle: Bundle, path: str) -> dict[str, Any]:
        entry = bundle.entry
        lead = bundle.lead_picture
        parts: dict[str, Any] = {
            "id": entry.key,
            "title": entry.title,
            "kind": entry.kind,
            "status": entry.status if entry.status != "published" else "",
            "slug": entry.slug if entry.slug != path.rpartition("/")[2] else "",
            "permalink": bundle.new_address,
            "guid": entry.guid if entry.guid != entry.key else "",
            **{
                name: date.isoformat()
                for of, name in _NAMES.items()
                if (date := getattr(entry, of))
            },
            "authors": [author.name for author in bundle.authors],
            "language": entry.language,
            "parent": entry.parent,
            "position": "" if entry.position is None else str(entry.position),
            "lead_picture": lead.address if lead else "",
            "enclosures": [media.address for media in bundle.enclosures],
            "summary": entry.summary,
            "fields": [{"name": name, "value": value} for name, value in entry.fields.items()],
        }
        for term in bundle.terms:
            parts.setdefault(
                self.options.terms.get(term.vocabulary, term.vocabulary), []
            ).append(term.name)
        return {name: value for name, value in parts.items() if value}

    def media(self, media: Media) -> Iterable[Problem]:
        """Write the record of a file, if more than its path is known."""
        facts = {
            "path": media.path,
            "address": media.address,
            "title": media.title,
            "caption": media.caption,
            "alternative_text": media.alternative_text,
            "media_type": media.media_type,
            "entry": media.entry,
        }
        self._line("media", {name: value for name, value in facts.items() if value})
        return ()

    def finish(self) -> None:
        """Write the terms that no text has, and close the data files."""
        for term in self._unused.values():
            self._line("terms", _of_term(term))
        for parts in self._data.values():
            parts.close()

    def _once(self, name: str, key: str, facts: dict[str, Any]) -> None:
        mark = f"{name} {key}"
        if mark not in self._written:
            self._written.add(mark)
            self._line(name, facts)

    def _line(self, name: str, facts: dict[str, Any]) -> None:
        self._put(name, _line(facts))

    def _put(self, name: str, line: str) -> None:
        if name not in self._data:
            path = f"{self.options.data}/{name}.jsonl"
            self._data[name] = Parts(self.output, path, self.limit, lambda _number: "", "")
        self._data[name].put(line)


def _line(facts: dict[str, Any]) -> str:
    filled = {key: value for key, value in facts.items() if value}
    return json.dumps(filled, ensure_ascii=False) + "\n"


def _of_author(author: Author) -> dict[str, Any]:
    return {
        name: getattr(author, name) for name in ("name", "login", "email", "address", "about")
    }


def _of_term(term: Term) -> dict[str, Any]:
    facts = {
        name: getattr(term, name) for name in ("vocabulary", "slug", "name", "description")
    }
    return facts | {"parent": term.parent.partition("/")[2]}


def _of_line(item: MenuItem) -> dict[str, Any]:
    names = ("menu", "label", "target", "parent")
    return {
        "id": item.key,
        **{name: getattr(item, name) for name in names},
        "position": str(item.position or ""),
    }


def _of_comment(comment: Comment, entry: str) -> dict[str, Any]:
    return {
        "id": comment.key,
        "entry": entry,
        "parent": comment.parent,
        "kind": comment.kind,
        "name": comment.author_name,
        "email": comment.email,
        "address": comment.address,
        "date": iso(comment.published),
        "status": comment.status,
        "text": comment.body.text,
    }


def _text(front: dict[str, Any], body: str) -> bytes:
    return f"---\n{_yaml(front)}---\n\n{body}".encode("utf-8", "replace")


def _yaml(front: dict[str, Any]) -> str:
    """Front matter in block style; each text comes back as it is, whatever it looks like."""
    import yaml  # heavy: imported where it is used

    def dumped(dumper: Any) -> str:
        return str(
            yaml.dump(front, None, dumper, allow_unicode=True, sort_keys=False, width=1_000_000)
        )

    # The dumper in C is eight times as fast, but writes a number for each character above U+FFFF.
    text = dumped(getattr(yaml, "CSafeDumper", yaml.SafeDumper))
    if "\\U00" in text:
        return dumped(yaml.SafeDumper)
    return text
