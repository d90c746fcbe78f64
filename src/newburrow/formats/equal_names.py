"""Objects in which one name stands several times (RFC 8259 4): the last value counts, no value is lost.

An earlier value is kept beside it as `name (1)`, `name (2)`, ...: a name that nobody asks for, so that
it is reported and kept like any other content without a place.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

_NAME_END = re.compile(r'"[ \t\r\n]*+:')
_NAME_END_BYTES = re.compile(rb'"[ \t\r\n]*+:')


def kept(members: Iterable[tuple[str, Any]]) -> dict[str, Any]:
    """An object with every value of its members, in their order."""
    found: dict[str, Any] = {}
    for name, value in members:
        if name in found:
            found[_unused(name, found)] = found[name]
        found[name] = value
    return found


def numbered(names: Iterable[str]) -> list[str]:
    """Names of the columns of a table, each different; as `kept` names the values of a row."""
    places: dict[str, int] = kept((name, place) for place, name in enumerate(names))
    return sorted(places, key=places.__getitem__)


def may_stand(text: str | bytes, value: Any) -> bool:
    """Whether a JSON text may hold more names than the value decoded from it.

    True is a suspicion only: a text within the value can look like a name.
    """
    count = _names(value)
    if isinstance(text, str):
        tight = text.count('":') - text.count('\\":')
        return tight != count and len(_NAME_END.findall(text)) > count
    tight = text.count(b'":') - text.count(b'\\":')
    return tight != count and len(_NAME_END_BYTES.findall(text)) > count


def _names(value: Any) -> int:
    if isinstance(value, dict):
        count, members = len(value), iter(value.values())
    elif isinstance(value, list):
        count, members = 0, iter(value)
    else:
        return 0
    for member in members:
        if isinstance(member, (dict, list)):
            count += _names(member)
    return count


def _unused(name: str, taken: dict[str, Any]) -> str:
    number = 1
    while f"{name} ({number})" in taken:
        number += 1
    return f"{name} ({number})"
