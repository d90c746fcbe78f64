"""The types of fields: how a value of each is written."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import UTC

from newburrow.core.dates import parse_date

# Facts of an entry that a field can be made from, and made into.
ENTRY_FACTS = ("title", "summary", "language")
_YES, _NO = ("yes", "true", "1", "on"), ("no", "false", "0", "off", "")
_ADDRESS = re.compile(r"(?:https?://|mailto:|/)\S+", re.IGNORECASE)


def typed(value: str, type_: str) -> str | None:
    """A value written the way its type asks for.

    `type_` is one of `FIELD_TYPES`. Gives None where the value cannot be of that type. A type
    without a rule of its own takes the value as it is, without the spaces around it.
    """
    value = value.strip()
    parse = _PARSERS.get(type_)
    if parse:
        return parse(value)
    return value


def _integer(value: str) -> str | None:
    if re.fullmatch(r"[+-]?\d{1,100}", value, re.ASCII):
        return str(int(value))
    return None


def _number(value: str) -> str | None:
    """A decimal number; a single comma is read as the decimal point."""
    if value.count(",") == 1 and "." not in value:
        value = value.replace(",", ".")
    if re.fullmatch(r"[+-]?\d+(\.\d+)?", value, re.ASCII):
        return value
    return None


def _yes_no(value: str) -> str | None:
    low = value.casefold()
    if low in _YES:
        return "yes"
    if low in _NO:
        return "no"
    return None


def _date(value: str) -> str | None:
    """A day stays a day; a date with a time becomes RFC 3339."""
    moment = parse_date(value, UTC)
    if moment is None:
        return None
    if re.fullmatch(r"\d{4}-\d\d-\d\d", value):
        return value
    return moment.isoformat()


def _address(value: str) -> str | None:
    if _ADDRESS.fullmatch(value):
        return value
    return None


_PARSERS: dict[str, Callable[[str], str | None]] = {
    "integer": _integer,
    "number": _number,
    "yes-no": _yes_no,
    "date": _date,
    "address": _address,
}
