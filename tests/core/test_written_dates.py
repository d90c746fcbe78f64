"""Dates in words, in the languages of Europe; nothing that can be read in two ways."""

import unittest
from datetime import UTC, datetime

from hypothesis import given
from hypothesis import strategies as st

from newburrow.core import written_dates
from newburrow.core.dates import date_within, parse_date, zone_named

READ = {
    "12 January 2013": (2013, 1, 12), "January 12, 2013": (2013, 1, 12), "Jan. 12th 2013, 10:05 pm": (2013, 1, 12, 22, 5),
    "Saturday, 12th of January, 2013": (2013, 1, 12), "Saturday, January 12, 2013 at 12:05 a.m.": (2013, 1, 12, 0, 5),
    "12. M\u00e4rz 2013": (2013, 3, 12), "Samstag, den 12. Januar 2013 um 14:30 Uhr": (2013, 1, 12, 14, 30),
    "12 de enero de 2013": (2013, 1, 12), "1er mars 2013 \u00e0 9h05": (2013, 3, 1, 9, 5), "12 \u043c\u0430\u0440\u0442\u0430 2013 \u0433.": (2013, 3, 12),
    "den 12 maj 2013": (2013, 5, 12), "12-Jan-2013": (2013, 1, 12), "2013/1/12": (2013, 1, 12), "2013.1.12. 10:20": (2013, 1, 12, 10, 20),
    "2013\u5e741\u670812\u65e5": (2013, 1, 12), "12 Sept 2013 9.30": (2013, 9, 12, 9, 30),
}  # fmt: skip


class WrittenDates(unittest.TestCase):
    def test_what_pages_show(self) -> None:
        for text, numbers in READ.items():
            self.assertEqual(written_dates.parse(text), datetime(*numbers), text)
            self.assertEqual(parse_date(text), datetime(*numbers, tzinfo=UTC), text)

    def test_what_is_none(self) -> None:
        for text in ("31 June 2013", "12 Foo 2013", "12/01/2013", "May 2013", "12 May", "12 May 2013 13:00 pm",
                     "on 12 May 2013 we met", "12 May 2013 " * 40, "2013/13/01"):  # fmt: skip
            self.assertIsNone(written_dates.parse(text), text)

    def test_within_a_line_that_says_more(self) -> None:
        for text, days in (
            ("Created by Ann Hill, last modified by Bob on Jan 05, 2020", [(2020, 1, 5)]),
            ("Written 2019-12-31 10:05 and changed on 3 May 2021 at 9:00", [(2019, 12, 31), (2021, 5, 3)]),
            ("am 3. M\u00e4rz 2020 von Ann (2020/04/01)", [(2020, 3, 3), (2020, 4, 1)]),
            ("May 2020, version 3.2020.01.02.4, 1-2-2020, 2020-13-45, 112 May 20201", []),
            ("12 May 2013 " * 40, []),
        ):  # fmt: skip
            found = [(date.year, date.month, date.day) for date in written_dates.within(text)]
            self.assertEqual(found, days, text)
        two = "Written 2019-12-31, changed 3 May 2021"
        self.assertEqual(date_within(two), datetime(2019, 12, 31, tzinfo=UTC))
        self.assertEqual(date_within(two, is_last=True), datetime(2021, 5, 3, tzinfo=UTC))
        self.assertIsNone(date_within(two + ", read 4 May 2021"))

    @given(st.text(alphabet="0123456789-./: Mayof,JndeT", max_size=300))
    def test_any_text_has_an_answer(self, text: str) -> None:
        for date in written_dates.within(text):
            self.assertIn(str(date.year), text)

    def test_a_zone_that_is_named_counts(self) -> None:
        zone = zone_named("Europe/London")
        self.assertEqual(
            parse_date("6 July 2023 08:00 GMT", zone), datetime(2023, 7, 6, 8, tzinfo=UTC)
        )
        self.assertEqual(
            parse_date("6 July 2023 08:00", zone), datetime(2023, 7, 6, 7, tzinfo=UTC)
        )

    @given(st.dates(min_value=datetime(1900, 1, 1).date()))
    def test_every_day(self, day: datetime) -> None:
        for form in ("%d %B %Y", "%B %d, %Y", "%d %b %Y", "%Y/%m/%d"):
            found = written_dates.parse(day.strftime(form))
            self.assertEqual(found and found.date(), day)
