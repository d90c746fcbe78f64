"""Patterns of addresses (RFC 6570, levels 1 and 2): expanding them, matching them, checking them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache
from urllib.parse import quote

import uritemplate

from newburrow.core.suggestions import suggest

_IN_PATHS = "/!$&'()*+,;=:@~"
_LONGEST = 1000  # characters of a pattern
_UNRESERVED = re.compile(r"[A-Za-z0-9._~-]*")  # RFC 3986 section 2.3
# and what is reserved, section 2.2
_RESERVED = re.compile(r"[A-Za-z0-9._~:/?#\[\]@!$&'()*+,;=-]*")


@lru_cache(maxsize=64)
def variables(pattern: str) -> tuple[str, ...]:
    """The variable names of an RFC 6570 pattern, in order; none where the text is no pattern."""
    try:
        return tuple(uritemplate.variables(pattern))
    except (ValueError, IndexError):
        return ()


@lru_cache(maxsize=64)
def _template(pattern: str) -> uritemplate.URITemplate:
    return uritemplate.URITemplate(pattern)


@lru_cache(maxsize=64)
def _pieces(pattern: str) -> list[str]:
    """Text and names of a pattern of levels 1 and 2 in turn; none where it is of another."""
    pieces = re.split(r"\{(\+?\w+)\}", pattern)
    if any("{" in piece for piece in pieces[::2]) or not pattern.isascii():
        return []
    return pieces


def _simply(pattern: str, values: dict[str, str]) -> str:
    """What a pattern gives where no value has to be encoded; empty for any other. It spares most of the work."""
    out = []
    for place, piece in enumerate(_pieces(pattern)):
        if place % 2:
            if piece[0] == "+":
                stays = _RESERVED
            else:
                stays = _UNRESERVED
            piece = values.get(piece.removeprefix("+"), "")
            if not stays.fullmatch(piece):
                return ""
        out.append(piece)
    return "".join(out)


def expand_names(pattern: str, names: dict[str, str]) -> str:
    """The address that a pattern gives for names of pages, files and folders, as they are called.

    As `expand`, but with `{+name}` only slashes and what a path may hold stay as they are (RFC 3986 section 3.3):
    a `#` or a `?` would end the path, and a `%` in a name does not begin an encoded character.
    """
    encoded = {
        name: quote(value, safe=_IN_PATHS) if f"{{+{name}}}" in pattern else value
        for name, value in names.items()
    }
    return expand(pattern, encoded)


def expand(pattern: str, values: dict[str, str]) -> str:
    """The address that a permalink pattern (RFC 6570) gives for these values.

    Values are percent-encoded unless the pattern has `{+name}`. A value that is empty is dropped, with the segment
    of the path that would then hold no value, and two slashes that would be beside each other become one.
    """
    if not all(values.get(name) for name in variables(pattern)):
        pattern = "/".join(
            segment
            for segment in pattern.split("/")
            if not (names := variables(segment)) or any(values.get(name) for name in names)
        )
    path = _simply(pattern, values) or _template(pattern).expand(
        {k: value for k, value in values.items() if value}
    )
    head, scheme, after_scheme = path.rpartition("://")
    return head + scheme + re.sub(r"/{2,}", "/", after_scheme)


@lru_cache(maxsize=64)
def matcher(pattern: str) -> re.Pattern[str]:
    """A regular expression that takes a pattern's paths apart again.

    Knows `{name}` (one segment or a part of one) and `{+name}` (slashes too), RFC 6570 levels 1 and 2.
    """
    regex, last, seen = "", 0, set[str]()
    for found in re.finditer(r"\{(\+?)([^\W\d]\w*)\}", pattern):
        regex += re.escape(pattern[last : found.start()])
        if found.group(1):
            inner = ".+"
        else:
            inner = "[^/?#]+"
        name = found.group(2)
        regex += f"(?P={name})" if name in seen else f"(?P<{name}>{inner})"
        seen.add(name)
        last = found.end()
    return re.compile(regex + re.escape(pattern[last:]))


def unknown_variables(
    keys: list[str], pattern: str, known: tuple[str, ...]
) -> Iterator[tuple[list[str], str, str]]:
    """The mistakes in a permalink pattern (RFC 6570 levels 1 and 2).

    Yields key path, message and advice for each variable that nothing fills, and for a pattern without
    any variable.
    """
    if len(pattern) > _LONGEST:
        yield (
            keys,
            f"The pattern is longer than {_LONGEST:,} characters.",
            "Write a shorter one.",
        )
        return
    names = variables(pattern)
    for name in names:
        if name not in known:
            yield (
                keys,
                f"The pattern {pattern!r} has an unknown variable {{{name}}}.",
                suggest(name, known, "The variables here are"),
            )
    if pattern and not names:
        yield (
            keys,
            f"The pattern {pattern!r} gives every object the same address.",
            f"Put a variable such as {{{known[0]}}} into it.",
        )
