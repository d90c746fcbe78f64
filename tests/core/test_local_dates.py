import unittest
from datetime import UTC, datetime

from newburrow.core import local_dates

READ = {
    "24.11.2026": (2026, 11, 24), "3.4.2026": (2026, 4, 3), "03.04.2026 14:05": (2026, 4, 3, 14, 5), "24. 11. 2026": (2026, 11, 24),
    "24/11/2026": (2026, 11, 24), "11/24/2026 1:45 PM": (2026, 11, 24, 13, 45), "11/24/2026 12:00:09 am": (2026, 11, 24, 0, 0, 9),
    "4/4/2026": (2026, 4, 4), "24-11-2026": (2026, 11, 24), "2026/11/24 8:00": (2026, 11, 24, 8), "2026-11-24": (2026, 11, 24),
    "2026-11-24T08:00:00Z": (2026, 11, 24, 8),
}  # fmt: skip


class LocalDates(unittest.TestCase):
    def test_what_spreadsheets_write(self) -> None:
        for text, numbers in READ.items():
            found = local_dates.parse(text, UTC)
            self.assertEqual(found, datetime(*numbers, tzinfo=UTC), text)

    def test_only_what_is_ambiguous_or_no_date_is_refused(self) -> None:
        for text in ("03/04/2026", "3-4-2026 10:00"):
            self.assertTrue(local_dates.is_ambiguous(text))
            self.assertIsNone(local_dates.parse(text, UTC))
        for text in ("31.02.2026", "32/13/2026", "1/13/2026 13:00 pm", "soon"):
            self.assertFalse(local_dates.is_ambiguous(text))
            self.assertIsNone(local_dates.parse(text, UTC))
