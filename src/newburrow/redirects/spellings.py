"""Other spellings of one request target that browsers and people send (RFC 3986, section 6.2.2)."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from urllib.parse import quote, unquote

_ENCODED = re.compile(r"%[0-9A-Fa-f]{2}")
_SAFE = "/!$&'()*+,;=:@~"


def other_spellings(target: str) -> Iterator[str]:
    """The target in each other spelling, each once.

    Percent-encoding in the other letter case; letters composed and decomposed (Unicode Standard Annex 15); a space in
    the query as a plus sign and encoded; parameters in the other order.
    """
    seen = {target}
    for spelling in _spellings(target):
        if spelling not in seen:
            seen.add(spelling)
            yield spelling


def _spellings(target: str) -> Iterator[str]:
    yield _ENCODED.sub(lambda found: found[0].lower(), target)
    yield _ENCODED.sub(lambda found: found[0].upper(), target)
    path, mark, query = target.partition("?")
    for form in ("NFC", "NFD"):
        yield _composed(path, form) + mark + query
    if mark:
        yield path + mark + query.replace("+", "%20")
        yield path + mark + query.replace("%20", "+")
        yield path + mark + "&".join(reversed(query.split("&")))


def _composed(path: str, form: str) -> str:
    """A path with its letters in a form; unchanged where it is not UTF-8, or holds an encoded slash."""
    if "%2f" in path.lower():
        return path
    try:
        text = unquote(path, errors="strict")
    except UnicodeDecodeError:
        return path
    if not text.isprintable() or text.isascii():
        return path
    return quote(unicodedata.normalize(form, text), safe=_SAFE)  # type: ignore[arg-type]
