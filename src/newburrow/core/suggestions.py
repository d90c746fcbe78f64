"""The known words that look most like a wrong one."""

from __future__ import annotations

import difflib
from collections.abc import Iterable


def nearest(word: str, known: Iterable[str], most: int = 3) -> list[str]:
    """The known words that look most like this one, the best first; none where nothing is near."""
    return difflib.get_close_matches(word, list(known), n=most, cutoff=0.5)


def suggest(word: str, known: Iterable[str], listing: str) -> str:
    """A sentence that names the nearest known words, else all of them as `listing` introduces them."""
    known = sorted(known)
    near = nearest(word, known)
    if near:
        return "Did you mean " + " or ".join(repr(name) for name in near) + "?"
    return f"{listing}: {', '.join(known)}."
