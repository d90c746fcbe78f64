"""Patterns of file names, as dialects write them."""

from __future__ import annotations

import fnmatch

_SIGNS = frozenset("*?[")  # that stand for others


def matches_file(name: str, pattern: str) -> bool:
    """Whether a dialect's `file` pattern names a file.

    `*` is any run of characters. The pattern is compared with the whole path, and with what is left of it
    without the folders or archives around, down to its last part. An empty pattern matches every file.
    """
    if not pattern:
        return True
    if _SIGNS.isdisjoint(pattern):  # as most are
        return name == pattern or name.endswith(f"/{pattern}")
    tail = name
    while True:
        if fnmatch.fnmatchcase(tail, pattern):
            return True
        _folder, slash, tail = tail.partition("/")
        if not slash:
            return False
