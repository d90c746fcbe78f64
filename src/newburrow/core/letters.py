"""Letters with the marks that belong to them, which `\\w` of regular expressions leaves out.

Hindi, Thai, Tamil and other scripts write vowels as marks: without them a word is another one, or none.
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

# Marks that change how a sign looks, not what is read (Unicode Standard, section 23.4): no part of a word.
_VARIANTS = (*range(0xFE00, 0xFE10), *range(0xE0100, 0xE01F0), *range(0x180B, 0x180E), 0x180F)
_LAST_MARK = 0x1F000  # beyond it are signs, emoji, and the ideographs
_MARK = ("Mn", "Mc")  # general categories (Unicode Standard, section 4.5)


@lru_cache(maxsize=1)
def marks() -> str:
    """The combining marks, as ranges for a set of characters in a regular expression."""
    numbers = [
        number
        for number in range(0x300, _LAST_MARK)
        if unicodedata.category(chr(number)) in _MARK and number not in _VARIANTS
    ]
    ranges = list[list[int]]()
    for number in numbers:
        if ranges and number == ranges[-1][1] + 1:
            ranges[-1][1] = number
        else:
            ranges.append([number, number])
    return "".join(f"{chr(first)}-{chr(last)}" for first, last in ranges)


def without_lone_marks(text: str) -> str:
    """A text without the marks that follow no letter, such as an accent between spaces."""
    if text.isascii():
        return text
    return _lone_marks().sub("", text)


@lru_cache(maxsize=1)
def _lone_marks() -> re.Pattern[str]:
    return re.compile(rf"(?<![\w{marks()}])[{marks()}]+")


def are_words(text: str, pattern: str) -> bool:
    """Whether a whole text matches a regular expression as `with_marks` understands it."""
    if re.fullmatch(pattern, text):
        return True
    if text.isascii() or without_lone_marks(text) != text:
        return False
    return with_marks(pattern).fullmatch(text) is not None


@lru_cache(maxsize=16)
def with_marks(pattern: str) -> re.Pattern[str]:
    """A regular expression, compiled, in which `\\w` also takes marks; it must stand in sets of characters only."""
    return re.compile(pattern.replace(r"\w", rf"\w{marks()}"))
