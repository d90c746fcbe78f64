"""Patterns of file names, as dialects write them."""

from __future__ import annotations

import fnmatch


def matches_file(name: str, pattern: str) -> bool:
    """Whether a file's name, or its last part, is as a pattern with * says; an empty pattern fits all."""
    return (
        not pattern
        or fnmatch.fnmatchcase(name, pattern)
        or fnmatch.fnmatchcase(name.rpartition("/")[2], pattern)
    )
