import unittest
from datetime import UTC, datetime

from hypothesis import given
from hypothesis import strategies as st

from newburrow.core.dates import parse_date, zone_named


class Dates(unittest.TestCase):
    def test_forms_that_feeds_hold(self) -> None:
        for text, iso in (
            ("Sat, 06 May 2023 08:00:00 +0100", "2023-05-06T08:00:00+01:00"),
            ("6 May 2023 08:00 GMT", "2023-05-06T08:00:00+00:00"),
            ("Sat, 06 May 2023 08:00:00 EST", "2023-05-06T08:00:00-05:00"),
            ("Sat, 06 May 23 08:00:00 Z", "2023-05-06T08:00:00+00:00"),
            ("2023-05-06T08:00:00Z", "2023-05-06T08:00:00+00:00"),
            ("2023-05-06T08:00:00.5+09:00", "2023-05-06T08:00:00.500000+09:00"),
            ("2023-05-06", "2023-05-06T00:00:00+00:00"),
        ):
            found = parse_date(text)
            self.assertEqual(found and found.isoformat(), iso, text)

    def test_a_naive_date_is_one_in_the_sites_zone(self) -> None:
        found = parse_date("2023-07-01 12:00:00", zone_named("Europe/London"))
        self.assertEqual(found and found.isoformat(), "2023-07-01T12:00:00+01:00")

    def test_what_is_none(self) -> None:
        for text in (
            "",
            "yesterday",
            "0000-00-00 00:00:00",
            "2023-13-01",
            "Sat, 99 May 2023 08:00:00 +0100",
            "9" * 400,
        ):
            self.assertIsNone(parse_date(text), text)
        self.assertEqual(zone_named("Nowhere/At all"), UTC)

    @given(st.text(max_size=30))
    def test_any_text_is_a_date_or_none(self, text: str) -> None:
        found = parse_date(text)
        self.assertTrue(found is None or found.tzinfo is not None)

    @given(st.datetimes(min_value=datetime(1900, 1, 1), timezones=st.just(UTC)))
    def test_what_is_written_is_read(self, moment: datetime) -> None:
        self.assertEqual(parse_date(moment.isoformat()), moment)
