"""Percent and time left, and lines where there is no terminal."""

import unittest

from newburrow.cli.progress_view import BETWEEN_LINES, Pace, lines
from newburrow.core.progress import Event


class Clock:
    """A clock that goes on when it is told to."""

    now = 0.0

    def __call__(self) -> float:
        return self.now


class Progress(unittest.TestCase):
    """Of stages whose end is known, and others."""

    def test_percent_and_the_time_that_is_left(self) -> None:
        clock = Clock()
        pace = Pace(clock)
        self.assertEqual(pace.amount(Event("Reading", 50)), "50 entries")
        self.assertEqual(pace.amount(Event("Converting", 0, 4000)), "0 of 4,000 entries, 0%")
        for seconds, done, left in (
            (60, 1000, "3 min"),
            (90, 3000, "30 s"),
            (4000, 1000, "3.3 h"),
        ):
            clock.now = seconds
            amount = pace.amount(Event("Converting", done, 4000))
            self.assertEqual(
                amount, f"{done:,} of 4,000 entries, {done / 4000:.0%}, about {left} left"
            )
        self.assertEqual(
            pace.amount(Event("Converting", 4000, 4000)), "4,000 of 4,000 entries, 100%"
        )

    def test_a_line_now_and_then(self) -> None:
        clock, said = Clock(), list[str]()
        listener = lines(said.append, clock)
        for second in range(100):
            clock.now = second
            listener(Event("Converting", second * 10, 1000))
            listener(Event.of_notice("once"))
        self.assertEqual(len(said), 99 // int(BETWEEN_LINES))
        self.assertEqual(said[0], "Converting: 150 of 1,000 entries, 15%, about 85 s left")
