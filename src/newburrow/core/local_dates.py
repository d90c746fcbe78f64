"""Dates as spreadsheets write them in the ways of a country: 24.11.2026, 11/24/2026 1:45 PM, 2026/11/24."""

from __future__ import annotations

import re
from datetime import datetime, tzinfo

from newburrow.core.dates import parse_date

_TIME = r"(?:[ T,]+(\d{1,2})[:.h](\d{2})(?:[:.](\d{2}))?\s*([ap]\.?m\.?)?)?"
_DAY_FIRST = re.compile(
    rf"(\d{{1,2}})([./-])\s?(\d{{1,2}})\2\s?(\d{{4}}){_TIME}", re.IGNORECASE
)
_YEAR_FIRST = re.compile(rf"(\d{{4}})[./](\d{{1,2}})[./](\d{{1,2}}){_TIME}", re.IGNORECASE)


def parse(text: str, zone: tzinfo) -> datetime | None:
    """A date, with or without a time; without an offset it is one of `zone`.

    None for a text that is not a date, or is one that can be read in two ways.
    """
    text = text.strip()
    if found := _YEAR_FIRST.fullmatch(text):
        year, month, day = int(found[1]), int(found[2]), int(found[3])
        return _made(year, month, day, found.groups()[3:], zone)
    if found := _DAY_FIRST.fullmatch(text):
        if is_ambiguous(text):
            return None
        day, month, year = int(found[1]), int(found[3]), int(found[4])
        if month > 12:  # 11/24/2026
            day, month = month, day
        return _made(year, month, day, found.groups()[4:], zone)
    return parse_date(text, zone)


def is_ambiguous(text: str) -> bool:
    """Whether day and month of a date could be either: 03/04/2026. With points the day always comes first."""
    found = _DAY_FIRST.fullmatch(text.strip())
    return bool(
        found
        and found[2] != "."
        and int(found[1]) <= 12
        and int(found[3]) <= 12
        and int(found[1]) != int(found[3])
    )


def _made(
    year: int, month: int, day: int, time: tuple[str | None, ...], zone: tzinfo
) -> datetime | None:
    hour, minute, second = (int(part or 0) for part in time[:3])
    half = (time[3] or "").lower()
    if half:
        if not 1 <= hour <= 12:
            return None
        hour = hour % 12 + (12 if half.startswith("p") else 0)
    try:
        return datetime(year, month, day, hour, minute, second, tzinfo=zone)
    except ValueError:
        return None
