"""Lists in one text: as JSON (RFC 8259), or in the serialised form of PHP."""

from __future__ import annotations

import json
from collections.abc import Iterator

from newburrow.formats.json_stream import decoded

_DEEPEST = 50


def parts(text: str) -> list[str]:
    """The values in a serialised list or table, without its names, nested ones one after another.

    A text that is none of these is the only part.
    """
    text = text.strip()
    try:
        if text[:1] in ("[", "{"):
            return list(_flat(decoded(text)))
        if text[:2] == "a:" and text.endswith("}"):
            value, remaining = _value(text.encode(), 0)
            if not remaining:
                return list(_flat(value))
            return [text]
    except (ValueError, RecursionError, IndexError):
        pass
    if text:
        return [text]
    return []


def _flat(value: object) -> Iterator[str]:
    if isinstance(value, dict):
        value = list(value.values())
    if isinstance(value, list):
        for member in value:
            yield from _flat(member)
    elif value is not None:
        yield value if isinstance(value, str) else json.dumps(value)


def _value(data: bytes, depth: int) -> tuple[object, bytes]:
    """The value that begins here, and what follows it. Raises ValueError where there is none."""
    kind, _colon, remaining = data.partition(b":")
    if kind == b"N;" or data.startswith(b"N;"):
        return None, data[2:]
    if kind in (b"i", b"d", b"b"):
        number, _end, remaining = remaining.partition(b";")
        return number.decode(), remaining
    length, _colon, remaining = remaining.partition(b":")
    if kind == b"s":
        end = int(length) + 1  # counted in bytes
        if remaining[:1] != b'"' or remaining[end : end + 2] != b'";':
            raise ValueError("no string")
        return remaining[1:end].decode(), remaining[end + 2 :]
    if kind != b"a" or depth > _DEEPEST:
        raise ValueError("no list")
    remaining, found = remaining[1:], []
    for _pair in range(int(length)):
        _name, remaining = _value(remaining, depth + 1)
        value, remaining = _value(remaining, depth + 1)
        found.append(value)
    if remaining[:1] != b"}":
        raise ValueError("not closed")
    return found, remaining[1:]
