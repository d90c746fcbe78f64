"""Patterns of file names, as dialects write them."""

from __future__ import annotations

import fnmatch


def matches_file(name: str, pattern: str) -> bool:
    """Whether a dialect's `file` pattern names a file.

    `*` is any run of characters. The pattern is compared with the whole path and with its last part. An
    empty pattern matches every file.
    """
    return (
        not pattern
        or fnmatch.fnmatchcase(name, pattern)
        or fnmatch.fnmatchcase(name.rpartition("/")[2], pattern)
    )
