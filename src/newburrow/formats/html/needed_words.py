"""The words without which no page has an element that a CSS selector finds.

To look for a word takes a hundredth of the time that the parser needs to answer a selector, and most pages
have nothing for most selectors.
"""

from __future__ import annotations

import re
from functools import lru_cache

# Selectors of which too little is understood here: functions, escapes, and strings with signs of the syntax.
_NOT_PLAIN = re.compile(r"""[(\\]|"[^"]*[],\[.#][^"]*"|'[^']*[],\[.#][^']*'""")
# Names of classes, ids and attributes, and values, as far as they are of letters, digits and hyphens.
_IN_BRACKETS = re.compile(r"\[([^]]*)\]")
_WORD = re.compile(r"[a-z0-9-]{2,}")
_NAME = re.compile(r"[.#]([a-z0-9-]+)")
_TAG = re.compile(r"(?<![^\s>+~])[a-z][a-z0-9-]*(?![\w-])")
# Elements that a page can have without a tag of that name (HTML standard 13.2.6).
_IMPLIED = ("html", "head", "body", "tbody", "tr", "colgroup", "p", "br", "img")
# Such a sign by its number, or the one by whose name two letters can be written (HTML standard 13.5).
_BY_NUMBER = re.compile(
    rb"&#0*(?:45|4[89]|5[0-7]|6[5-9]|[78]\d|9[0789]|1[01]\d|12[0-2])(?!\d)"
    rb"|&#x0*(?:2d|3\d|[46][1-9a-f]|[57][0-9a])(?![0-9a-f])|&fjlig"
)


class PageWords:
    """The words of the source of one page."""

    def __init__(self, lower: bytes) -> None:
        """`lower` is the source in UTF-8 with the letters A to Z in lower case: searching bytes is twice as fast."""
        self._is_plain = _BY_NUMBER.search(lower) is None
        self._has = _FoundWords(lower)

    def allow(self, css: str) -> bool:
        """Whether a selector may find something on the page; no means that it surely does not."""
        return bool(self.possible(css))

    def possible(self, css: str) -> str:
        """Of the selectors in a list, those that may find something on the page; empty where none does."""
        if not self._is_plain:
            return css
        has, lists = self._has, needed_words(css)
        found = []
        # Plain loops take half of the time of generators, and each page is asked some thirty times.
        for selector, words in lists:
            for word in words:
                if not has[word]:
                    break
            else:
                found.append(selector)
        if len(found) == len(lists):
            return css
        return ",".join(found)


class _FoundWords(dict[bytes, bool]):
    """Whether a text has a word, which is looked for once."""

    def __init__(self, text: bytes) -> None:
        super().__init__()
        self._text = text

    def __missing__(self, word: bytes) -> bool:
        self[word] = found = word in self._text
        return found


@lru_cache(maxsize=1024)
def needed_words(css: str) -> tuple[tuple[str, tuple[bytes, ...]], ...]:
    """Each selector in a list, with the words that the source of a page must have, in small letters; the rarest first.

    A tag of the selector is a word with its sign before it.
    """
    if _NOT_PLAIN.search(css):
        return ((css, ()),)
    return tuple((selector, _of_selector(selector)) for selector in css.split(","))


def _of_selector(selector: str) -> tuple[bytes, ...]:
    # As in HTML, no other letters are the same in capitals.
    css = selector.encode().lower().decode()
    in_brackets = [word for inner in _IN_BRACKETS.findall(css) for word in _WORD.findall(inner)]
    bare = _IN_BRACKETS.sub("", css)
    names, bare = _NAME.findall(bare), _NAME.sub("", bare)
    tags = [] if ":" in bare or "|" in bare else _TAG.findall(bare)
    begun = [f"<{tag}" for tag in tags if tag not in _IMPLIED]
    words = sorted({*names, *in_brackets, *begun}, key=lambda word: (-len(word), word))
    return tuple(word.encode("ascii") for word in words)
