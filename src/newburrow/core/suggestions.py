"""The known words that look most like a wrong one."""

from __future__ import annotations

import difflib
from collections.abc import Iterable

_FEW = 12  # words that are all listed, even where one is near


def nearest(word: str, known: Iterable[str], most: int = 3) -> list[str]:
    """The known words that look most like a word, at most `most`, the best first.

    Letter case does not count. Empty if no word is near enough to be a likely typing error.
    """
    return difflib.get_close_matches(word, list(known), n=most, cutoff=0.5)


def suggest(word: str, known: Iterable[str], listing: str) -> str:
    """A sentence for the advice of a problem about an unknown word.

    It names the nearest known words ("Did you mean ...?"). If none is near, or they are few, it lists all of
    them after the words of `listing`, such as "The hosts are".
    """
    known = sorted(known)
    near = nearest(word, known)
    every = f"{listing}: {', '.join(known)}."
    if not near:
        return every
    guess = "Did you mean " + " or ".join(repr(name) for name in near) + "?"
    if len(known) > _FEW:
        return guess
    return f"{guess} {every}"
