"""Keys of several exports in one store: an id of one export is not that of another by accident.

Keys of the first export stand as they are. Those of a further one are marked with its number, unless both
are of one site in one dialect, or the key is an IRI, which is one everywhere.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from typing import TypeVar

from msgspec.structs import replace

from newburrow.model import (
    Author,
    Comment,
    Entry,
    Item,
    Media,
    Mention,
    MenuItem,
    Record,
    Relation,
    Site,
    Term,
)
from newburrow.problem import Problem

_MARK = "export-{number}:"
_MARKED = re.compile(r"export-\d+:")
_IRI = re.compile(r"(?:https?|tag|urn):")
R = TypeVar("R", bound=Record)


def mark_of(number: int) -> str:
    """What stands before the keys of the export of this number, counted from 1."""
    if number > 1:
        return _MARK.format(number=number)
    return ""


def scope_of(key: str) -> str:
    """The mark before a key; empty for one of the first export, or one that is the same everywhere."""
    found = _MARKED.match(key)
    if found:
        return found.group()
    return ""


def bare(key: str) -> str:
    """The key as its own export says it."""
    return key.removeprefix(scope_of(key))


def site_of(path: str, sites: Iterable[Site]) -> tuple[str, str]:
    """The address of the site whose export has a file of this path, and the path as that export says it."""
    mark, _slash, rest = path.partition("/")
    for site in sites:
        if site.key.startswith(f"{mark}:"):
            return site.address, rest
    return next((site.address for site in sites if not scope_of(site.key)), ""), path


def marked(mark: str, word: str) -> str:
    """A word of an export as a key."""
    if not word or _IRI.match(word):
        return word
    return mark + word


def belongs(key: str, mark: str) -> bool:
    """Whether a key can be meant by an export."""
    return scope_of(key) == mark or bool(_IRI.match(key))


def scoped(items: Iterable[Item | Problem], keys: str, paths: str) -> Iterator[Item | Problem]:
    """The items with `keys` before what is a key, and `paths` before what is a path in the export."""

    def key(word: str) -> str:
        return marked(keys, word)

    for item in items:
        if isinstance(item, Problem):
            yield replace(item, key=key(item.key))
        elif isinstance(item, Relation):
            yield replace(item, entry=key(item.entry), scope=keys)
        elif isinstance(item, Mention):
            yield Mention(_marked(item.record, key, paths))
        else:
            yield _marked(item, key, paths)


def _marked(record: R, key: Callable[[str], str], paths: str) -> R:
    # a path is of one export alone
    if record.key.startswith("file:"):
        own = paths + record.key
    else:
        own = key(record.key)
    if isinstance(record, Term):
        return replace(record, key=own, parent=key(record.parent))
    if isinstance(record, Comment):
        return replace(record, key=own, entry=key(record.entry), parent=key(record.parent))
    if isinstance(record, Media):
        return replace(
            record,
            key=own,
            entry=key(record.entry),
            path=paths + record.path if record.path else "",
        )
    if isinstance(record, Entry):
        return replace(
            record,
            key=own,
            authors=tuple(map(key, record.authors)),
            terms=tuple(map(key, record.terms)),
            enclosures=tuple(map(key, record.enclosures)),
            lead_picture=key(record.lead_picture),
            parent=key(record.parent),
        )
    if isinstance(record, MenuItem):
        return replace(record, key=own, target=key(record.target), parent=key(record.parent))
    if isinstance(record, Site):
        return replace(record, key=own, front_page=key(record.front_page))
    assert isinstance(record, Author)
    return replace(record, key=own)
