"""Dates as feeds really write them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta, timezone, tzinfo
from email.utils import parsedate_to_datetime
from functools import lru_cache
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from newburrow.core import written_dates

# forms that count from 1970-01-01, and how many of them make a second
EPOCHS = {
    "unix": 1,
    "unix-ms": 1000,
}

# ISO 8601, also shortened to a month, with a space instead of T, and with the name of a zone.
_ISO = re.compile(
    r"(\d{4})-?(\d\d)(?:-?(\d\d)"
    r"(?:[T ]\s*(\d\d):?(\d\d)(?::?(\d\d)(?:[.,](\d+))?)?\s*([A-Za-z]{1,5}|[+-]\d\d(?::?\d\d)?)?)?)?"
)
# Its commonest form, which Python reads by itself in a tenth of the time.
_EXACT = re.compile(r"(?!000)\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:Z|[+-]\d\d:\d\d)\Z", re.ASCII)
# A year that is none, as databases write a date that was never set.
_NO_YEAR = re.compile(r"(?:^|\s)-?0{3}[01](?=-|\s|$)|^-\d{4}-")
# RFC 5322 section 3.3 in the form that nearly all feeds use; other forms take ten times as long.
_MAIL = re.compile(
    r"(?:[A-Z][a-z]{2}, )?(\d\d?) ([A-Z][a-z]{2}) (\d{4}) (\d\d):(\d\d):(\d\d) ([+-])(\d\d)(\d\d)"
)
_MONTHS = {
    name: number
    for number, name in enumerate(
        ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"], 1
    )
}
_ZONE_NAME = re.compile(r"\b([A-Z]{3,5})$", re.IGNORECASE)
# Zones that RFC 822 does not list but feeds use; only those with one meaning.
_OFFSETS = {
    "WET": "+0000",
    "WEST": "+0100",
    "BST": "+0100",
    "CET": "+0100",
    "MEZ": "+0100",
    "CEST": "+0200",
    "MESZ": "+0200",
    "EET": "+0200",
    "EEST": "+0300",
    "MSK": "+0300",
    "JST": "+0900",
    "AWST": "+0800",
    "AEST": "+1000",
    "AEDT": "+1100",
    "NZST": "+1200",
    "NZDT": "+1300",
    "HST": "-1000",
    "AKST": "-0900",
    "AKDT": "-0800",
}


_RFC_822 = {
    "Z": "+0000",
    "UT": "+0000",
    "UTC": "+0000",
    "GMT": "+0000",
    "EST": "-0500",
    "EDT": "-0400",
    "CST": "-0600",
    "CDT": "-0500",
    "MST": "-0700",
    "MDT": "-0600",
    "PST": "-0800",
    "PDT": "-0700",
}


def zone_named(name: str) -> tzinfo:
    """The time zone of an IANA name, such as `Europe/London`.

    UTC if the name is empty or unknown: whether a name is allowed is checked where it is read.
    """
    try:
        if name:
            return ZoneInfo(name)
        return UTC
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return UTC


def is_zone(name: str) -> bool:
    """Whether there is a time zone of this IANA name."""
    try:
        ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return False
    return True


def is_unset(text: str) -> bool:
    """Whether a text is the date of something that has none, as databases write it: `0000-00-00 00:00:00`."""
    return bool(_NO_YEAR.search(text))


def parse_date(text: str, zone: tzinfo = UTC, forms: Sequence[str] = ()) -> datetime | None:
    """The date in one of `forms`, in RFC 822/5322 or ISO 8601 form, or in words, aware; None if it is not one.

    A form is one of strptime, or `unix` or `unix-ms` for a number of seconds or milliseconds since 1970.
    A date without an offset is one in `zone`.
    """
    text = text.strip()
    try:
        date = (_in_form(text, forms) if forms else None) or _usual(text)
        if date.tzinfo is None:
            date = date.replace(tzinfo=zone)
        date.astimezone(UTC)  # raises for dates at the edges of what can be represented
    except (ValueError, TypeError, IndexError, OverflowError, AttributeError):
        return None
    return date


def date_within(text: str, zone: tzinfo = UTC, is_last: bool = False) -> datetime | None:
    """The first date in a text of some words, or the last; None if there is none, or there are more than two.

    Pages say who wrote them and who changed them last in one line; a date is one in `zone`.
    """
    found = written_dates.within(text)
    if not 1 <= len(found) <= 2:
        return None
    return found[-1 if is_last else 0].replace(tzinfo=zone)


def _usual(text: str) -> datetime:
    if _EXACT.match(text):
        try:
            return datetime.fromisoformat(text)
        except ValueError:  # such as one with a leap second
            pass
    if is_unset(text):
        raise ValueError("a date that was never set")
    iso = _ISO.fullmatch(text)
    if iso and (len(text) > 6 or "-" in text):
        return _iso(iso)
    mail = _MAIL.fullmatch(text)
    if mail and mail[2] in _MONTHS:
        day, month, year, hour, minute, second, sign, hours, minutes = mail.groups()
        east = (int(hours) * 60 + int(minutes)) * (1 if sign == "+" else -1)
        return datetime(
            int(year),
            _MONTHS[month],
            int(day),
            int(hour),
            int(minute),
            int(second),
            tzinfo=_east(east),
        )
    if written := written_dates.parse(text):
        return written
    named = _ZONE_NAME.search(text)
    if named:
        offset = _OFFSETS.get(named[1].upper())
    else:
        offset = None
    return parsedate_to_datetime(
        f"{text[: named.start()]} {offset}" if named and offset else text
    )


def _iso(found: re.Match[str]) -> datetime:
    year, month, day, hour, minute, second, fraction, zone = found.groups()
    moment = datetime(int(year), int(month), int(day or 1))
    if hour:
        # 24:00 is the end of the day (ISO 8601), and 60 a leap second
        moment += timedelta(hours=int(hour), minutes=int(minute), seconds=int(second or 0))
        if int(hour) > 24 or int(minute) > 59 or int(second or 0) > 60:
            raise ValueError("no time of a day")
        moment += timedelta(microseconds=int((fraction or "0")[:6].ljust(6, "0")))
    if not zone:
        return moment
    return moment.replace(tzinfo=_zone(zone))


def _zone(text: str) -> tzinfo:
    """The zone of an offset or of a zone's name that feeds use. Raises ValueError for any other."""
    if text[0] not in "+-":
        text = _RFC_822.get(text.upper()) or _OFFSETS.get(text.upper(), "")
    if not text:
        raise ValueError("no zone")
    digits = text[1:].replace(":", "").ljust(4, "0")
    minutes = int(digits[:2]) * 60 + int(digits[2:])
    return _east(-minutes if text[0] == "-" else minutes)


@lru_cache(maxsize=128)
def _east(minutes: int) -> tzinfo:
    """The zone of an offset; UTC itself where there is none."""
    if minutes:
        return timezone(timedelta(minutes=minutes))
    return UTC


def _in_form(text: str, forms: Sequence[str]) -> datetime | None:
    for form in forms:
        try:
            if form in EPOCHS:
                return datetime.fromtimestamp(float(text) / EPOCHS[form], UTC)
            return datetime.strptime(text, form)
        except (ValueError, OverflowError, OSError):
            continue
    return None


def utc(moment: datetime | None) -> str:
    """A date as text that sorts as dates do: RFC 3339 in UTC.

    `moment` is an aware datetime. Empty for None.
    """
    if moment:
        return moment.astimezone(UTC).isoformat().replace("+00:00", "Z")
    return ""


def iso(moment: datetime | None) -> str:
    """A date as ISO 8601; empty where there is none."""
    if moment is None:
        return ""
    return moment.isoformat()
