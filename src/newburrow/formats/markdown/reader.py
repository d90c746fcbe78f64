"""A folder of Markdown: the reader. Each file is an entry; its front matter is a record like those of JSON."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from newburrow.core.problem import Problem, refusal
from newburrow.dialects.json_selector import JsonSelector
from newburrow.dialects.schema import Dialect, EntryMap, RecordMap
from newburrow.formats.base import Input
from newburrow.formats.markdown.front_matter import BrokenFrontMatter, split
from newburrow.formats.records.mapping import Mapper, maps_for
from newburrow.formats.records.record_facts import CompiledMap
from newburrow.formats.records.record_view import JsonView
from newburrow.model import Where
from newburrow.model.reading import Item

_LONGEST = 64 * 1024 * 1024
_DATED = re.compile(r"(\d{4}-\d\d-\d\d)-(.+)")
# A first heading, which may come after comments (CommonMark 4.2 and 6.6).
_HEADING = re.compile(r"((?:\s|<!--.*?-->)*)#[ \t]+(.+?)[ \t]*#*[ \t]*(?:\n|\Z)", re.DOTALL)

# Facts of the file beside its front matter; the brackets keep their names apart from those in it.
BODY, FOLDER, NAME, PATH, DATE, HEADING = (
    "(body)",
    "(folder)",
    "(name)",
    "(path)",
    "(date)",
    "(heading)",
)

PLAIN = Dialect(
    name="plain",
    format="markdown",
    title="no dialect: front matter in words that several programs share",
    entry=EntryMap(markup="markdown"),
    values={
        "status": {"true": "draft", "false": "published", "True": "draft", "False": "published"}
    },
    records=[
        RecordMap(
            of="entry",
            take={
                "id": ["id", PATH],
                "kind": "kind",
                "status": ["status", "draft"],
                "title": ["title", HEADING],
                "slug": ["slug", NAME],
                "permalink": "permalink",
                "published": ["published", "date", DATE],
                "updated": "updated",
                "author": ["authors", "$.author.name", "author"],
                "summary": ["summary", "description"],
                "body": BODY,
                "markup": "markup",
                "language": ["language", "lang"],
                "position": "position",
                "other_addresses": "formerly",
                "parent": "parent",
                "lead_picture": ["lead_picture", "image"],
                "enclosures": "enclosures",
                "folder": FOLDER,
                "base": PATH,
            },
            terms={
                "tag": ["tags", "keywords"],
                "category": "categories",
                "section": [FOLDER],
            },
            address="/{+folder}/{slug}/",
        )
    ],
)


def read(source: Input) -> Iterator[Item | Problem]:
    """The entry of one file."""
    data = source.stream.read(_LONGEST + 1)
    where = Where(source.label)
    if len(data) > _LONGEST:
        raise refusal(
            "too-large-text",
            f"The text is larger than {_LONGEST:,} bytes.",
            "Remove it from the export.",
            where,
        )
    text = data.decode("utf-8")
    try:
        front, body, _line = split(text)
    except BrokenFrontMatter as error:
        front, body, _line = {}, text, 1
        message = f"The front matter cannot be read: {error}; it stays in the body."
        yield replace(
            Problem.at(Where(source.label, error.line), "front-matter", message=message),
            object="entry",
            key=source.name,
        )
    mapper = Mapper(source)
    for rules in maps_for(source, "markdown"):
        record = front | _of_file(source.name, body, front)
        yield from mapper.records(CompiledMap(rules, JsonSelector), JsonView(record, 1))
    source.progress(1)


def _of_file(name: str, body: str, front: dict[str, Any]) -> dict[str, Any]:
    """What the file's own name and text say."""
    folder, _slash, last = name.rpartition("/")
    stem = last.rpartition(".")[0] or last
    if stem in ("index", "_index") and folder:
        folder, _slash, stem = folder.rpartition("/")  # a text with its files beside it
    dated = _DATED.fullmatch(stem)
    facts: dict[str, Any] = {
        PATH: name,
        FOLDER: folder,
        NAME: dated[2] if dated else stem,
        DATE: dated[1] if dated else "",
        BODY: body,
    }
    heading = _HEADING.match(body)
    if heading and "title" not in front:
        before = heading[1].strip()
        after = body[heading.end() :].lstrip("\n")
        facts |= {HEADING: heading[2], BODY: f"{before}\n\n{after}" if before else after}
    return facts
