"""Dates as feeds really write them."""

from __future__ import annotations

import re
from datetime import UTC, datetime, tzinfo
from email.utils import parsedate_to_datetime
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

_ISO = re.compile(r"\d{4}-\d\d")


def zone_named(name: str) -> tzinfo:
    """The time zone of an IANA name; UTC where the name is none."""
    try:
        return ZoneInfo(name) if name else UTC
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return UTC


def parse_date(text: str, zone: tzinfo = UTC) -> datetime | None:
    """The date in RFC 822/5322 or ISO 8601 form, aware; None where it is none.

    A date without an offset is one in `zone`.
    """
    text = text.strip()
    try:
        date = datetime.fromisoformat(text) if _ISO.match(text) else parsedate_to_datetime(text)
        if date.tzinfo is None:
            date = date.replace(tzinfo=zone)
        date.astimezone(UTC)  # raises for dates at the edges of what can be told
    except (ValueError, TypeError, IndexError, OverflowError, AttributeError):
        return None
    return date
