"""Dates as pages show them to readers: `12 January 2013`, `January 12th, 2013, 10:05 pm`, `2013年1月12日`.

Only forms that can be read in one way are dates here: the month is a word, or the year comes first.
"""

from __future__ import annotations

import re
from datetime import datetime

# The names of the months as languages of Europe write them, in small letters, with their usual short forms.
_NAMES = (
    "january jan januar jänner jän januari janvier janv enero ene gennaio gen janeiro tammikuuta stycznia ledna января",
    "february feb februar feber februari février févr fevrier febrero febbraio fevereiro fev helmikuuta lutego února "
    "февраля",
    "march mar märz mär mrz maart mrt mars marts marzo março maaliskuuta marca března марта",
    "april apr avril avr abril abr aprile huhtikuuta kwietnia dubna апреля",
    "may mai mei maj mayo maggio mag maio toukokuuta maja května мая",
    "june jun juni juin junio giugno giu junho kesäkuuta czerwca června июня",
    "july jul juli juillet juil julio luglio lug julho heinäkuuta lipca července июля",
    "august aug augustus augusti août aout agosto ago elokuuta sierpnia srpna августа",
    "september sep sept septembre septiembre settembre set setembro syyskuuta września září сентября",
    "october oct oktober okt octobre octubre ottobre ott outubro out lokakuuta października října октября",
    "november nov novembre noviembre novembro marraskuuta ноября",
    "december dec dezember dez décembre déc decembre diciembre dic dicembre dezembro joulukuuta grudnia prosince "
    "декабря",
)
_LONGEST = 60  # characters
_LONGEST_SENTENCE = 300
_MONTHS = {name: number for number, names in enumerate(_NAMES, 1) for name in names.split()}
_WORD = r"[^\W\d_]+"
_TIME = (
    r"(?:(?:,|\s+(?:at|um|à|a las|alle|om|kl\.?|[-–—@])|(?<=[\d.日])\s)\s*(?P<hour>\d{1,2})[:.h](?P<minute>\d{2})"
    r"(?::(?P<second>\d{2}))?\s*(?P<half>[ap]\.?m\.?)?\s*(?:uhr|h)?)?"
)
_WRITTEN = tuple(
    form + _TIME
    for form in (
        # 12 January 2013, Saturday, 12th of January, 2013, 12. Januar 2013, 12 de enero de 2013, 12-Jan-2013
        rf"(?:{_WORD}\.?,?\s+(?:den\s+)?)?(?P<day>\d{{1,2}})(?:st|nd|rd|th|er|\.|º|°)?[\s-]+(?:(?:of|de)\s+)?"
        rf"(?P<month>{_WORD})\.?,?[\s-]+(?:(?:de|del)\s+)?(?P<year>\d{{4}})(?:\s?г\.)?",
        # January 12, 2013
        rf"(?:{_WORD}\.?,?\s+)?(?P<month>{_WORD})\.?\s+(?P<day>\d{{1,2}})(?:st|nd|rd|th)?,?\s+(?P<year>\d{{4}})",
        # 2013/01/12, 2013.1.12, 2013年1月12日
        r"(?P<year>\d{4})(?:[./年]\s?)(?P<month>\d{1,2})(?:[./月]\s?)(?P<day>\d{1,2})\.?日?",
    )
)


_FORMS = tuple(re.compile(form, re.IGNORECASE) for form in _WRITTEN)
_ISO = (
    r"(?P<year>\d{4})-(?P<month>\d\d)-(?P<day>\d\d)"
    r"(?:[T ](?P<hour>\d\d):(?P<minute>\d\d)(?::(?P<second>\d\d))?)?(?P<half>(?!))?"
)
_WITHIN = tuple(
    re.compile(rf"(?<![\d.-]){form}(?![\d-])", re.IGNORECASE) for form in (*_WRITTEN, _ISO)
)


def parse(text: str) -> datetime | None:
    """The date in a text that is nothing but one, without a zone; None for any other text."""
    for form in _FORMS if len(text) <= _LONGEST else ():
        if found := form.fullmatch(text):
            return _made(found)
    return None


def within(text: str) -> list[datetime]:
    """The dates in a text that says more, in its order; none in a long text.

    Such a text is `Written by Ann on 12 May 2013, changed on 2014-01-30`.
    """
    found: dict[int, datetime] = {}
    for form in _WITHIN if len(text) <= _LONGEST_SENTENCE else ():
        for match in form.finditer(text):
            if date := _made(match):
                found.setdefault(match.start("year"), date)
    return [found[place] for place in sorted(found)]


def _made(found: re.Match[str]) -> datetime | None:
    month = found["month"].lower()
    number = int(month) if month.isdecimal() else _MONTHS.get(month, 0)
    hour, half = int(found["hour"] or 0), (found["half"] or "").lower()
    if half:
        if not 1 <= hour <= 12:
            return None
        hour = hour % 12 + (12 if half.startswith("p") else 0)
    minute, second = int(found["minute"] or 0), int(found["second"] or 0)
    try:
        return datetime(int(found["year"]), number, int(found["day"]), hour, minute, second)
    except ValueError:
        return None
