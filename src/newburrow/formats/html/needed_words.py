"""The words without which a CSS selector finds nothing: looking for them in a page is much faster than asking it."""

from __future__ import annotations

import re
from functools import lru_cache

# A class, an id, or an attribute with the start of its value (Selectors Level 4, section 6).
_WORD = re.compile(r"[.#]([\w-]+)|\[\s*([\w-]+)(?:[~|^$*]?=\s*[\"']?([\w-]*))?")
_STRANGE = (":", "\\", "(")  # what can turn a part of a selector into its opposite
_IN_QUOTES = re.compile(r"\"[^\"]*\"|'[^']*'")


@lru_cache(maxsize=1024)
def needed_words(css: str) -> tuple[tuple[str, ...], ...]:
    """For each alternative of a selector, words in lower case that a page must hold for it; none where unknown.

    The words are names of classes, ids and attributes, and the beginnings of their values.
    """
    if any(sign in _IN_QUOTES.sub("", css) for sign in _STRANGE):
        return ()
    if any("," in quoted for quoted in _IN_QUOTES.findall(css)):
        return ()
    found = [
        tuple(word.lower() for groups in _WORD.findall(one) for word in groups if word)
        for one in css.split(",")
    ]
    if not all(found):
        return ()
    return tuple(found)


def can_match(css: str, text: str) -> bool:
    """Whether a selector may find something in a page; `text` is its source in lower case.

    A page that writes its names with character references is not judged.
    """
    alternatives = needed_words(css)
    # Loops: this is asked two dozen times for each page.
    for words in alternatives:
        for word in words:
            if word not in text:
                break
        else:
            return True
    return not alternatives or "&#" in text
