"""Keys of several exports in one store: an id of one export is not that of another by accident.

Keys of the first export are as they are. Those of a further one are marked with its number, unless both
are of one site in one dialect, or the key is an IRI, which is one everywhere.
"""

from __future__ import annotations

import re

_MARK = "export-{number}:"
_MARKED = re.compile(r"export-\d+:")
_IRI = re.compile(r"(?:https?|tag|urn):")


def mark_of(number: int) -> str:
    """The mark before the keys of the export of this number, counted from 1."""
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
    """The key as it is in its own export, without a mark."""
    return key.removeprefix(scope_of(key))


def marked(mark: str, word: str) -> str:
    """A word of an export as a key, with the mark of that export."""
    if not word or _IRI.match(word):
        return word
    return mark + word


def belongs(key: str, mark: str) -> bool:
    """Whether a key can be meant by an export.

    `mark` is the export's mark, empty for the first. A key that is an IRI means the same in all exports.
    """
    return scope_of(key) == mark or bool(_IRI.match(key))
