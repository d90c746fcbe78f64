"""Slugs that the new host accepts."""

from __future__ import annotations

import fnmatch
import html
import re
import unicodedata
from functools import lru_cache

from newburrow.core import letters
from newburrow.hosts.profile import Slugs

_ASCII, _UNICODE = r"[a-z0-9_-]+", r"[\w-]+"
_NOT_IN_UNICODE = r"(?:[^\w]|_)+"
_DOTTED_I = "i\u0307"  # what the small letter of İ is by the Unicode Standard: an i with one more dot above it

# What no name of a page can hold: signs of links, of addresses and of paths of files, and what is not seen.
_NOT_IN_NAMES = re.compile(r"[\x00-\x1f\x7f\\\[\]{}|<>~%]")


@lru_cache(maxsize=4096)
def make(text: str, rules: Slugs) -> str:
    """A slug that the host accepts, from a title or from an old slug.

    By the host's rules: letters of all scripts or ASCII only, length, separator, forbidden slugs. Empty if
    the text has no character that is allowed in a slug.
    """
    if rules.letters == "name":
        return _name(text, rules)
    text = html.unescape(text)
    if rules.letters == "ascii":
        from text_unidecode import unidecode  # heavy: imported where it is used

        # Composed first: decomposed, letters such as が would lose their marks.
        text = unidecode(unicodedata.normalize("NFC", text))
    from slugify import slugify  # heavy: imported where it is used

    others = None
    if not text.isascii():
        text = letters.without_lone_marks(unicodedata.normalize("NFKC", text))
        others = letters.with_marks(_NOT_IN_UNICODE)
    slug: str = slugify(
        text,
        entities=False,
        decimal=False,
        hexadecimal=False,
        allow_unicode=True,
        regex_pattern=others,
    ).replace(_DOTTED_I, "i")
    if len(slug) > rules.longest:
        cut = slug[: rules.longest + 1].rpartition("-")[0] or slug[: rules.longest]
        slug = cut.strip("-")
    if not slug or not _refused(slug, rules):
        return slug
    replacements = (
        numbered(slug, 1, rules),
        f"entry-{slug}"[: rules.longest].strip("-"),
        f"entry-{len(slug)}",
    )
    return next((other for other in replacements if not _refused(other, rules)), "")


def _name(text: str, rules: Slugs) -> str:
    """A title as the name of a page: single spaces, and `-` for signs that names cannot hold."""
    words = _NOT_IN_NAMES.sub("-", unicodedata.normalize("NFC", " ".join(text.split())))
    name = words[: rules.longest].strip(" .-")
    if name and _refused(name, rules):
        return numbered(name, 1, rules)
    return name


def numbered(slug: str, number: int, rules: Slugs) -> str:
    """A slug with a number after it, for the second and later entry that wants it.

    No longer than the host accepts: the slug is cut, never the number.
    """
    if rules.letters == "name":
        mark = f" {number}"
    else:
        mark = f"-{number}"
    return slug[: max(rules.longest - len(mark), 1)].rstrip("-") + mark


def accepted(slug: str, rules: Slugs) -> bool:
    """Whether the host takes a slug as it is."""
    if rules.letters == "name":
        return slug == make(slug, rules)
    if rules.letters == "ascii":
        pattern = _ASCII
    else:
        pattern = _UNICODE
    return (
        letters.are_words(slug, pattern)
        and len(slug) <= rules.longest
        and not _refused(slug, rules)
    )


def _refused(slug: str, rules: Slugs) -> bool:
    return slug in rules.reserved or any(
        fnmatch.fnmatchcase(slug, pattern) for pattern in rules.forbidden
    )
