"""Answers that are read from their source once."""

import unittest
from collections.abc import Iterator
from itertools import islice

from newburrow.store.journal.rows import GONE, REDIRECTED, OldAddress
from newburrow.store.redirects.spooled_answers import SpooledAnswers
from tests.helpers import SITE

ROWS = [
    OldAddress.of(f"{SITE}é/{n}", f"{SITE}new/{n}" if n % 3 else "", REDIRECTED if n % 3 else GONE, "why\n")
    for n in range(1203)
]  # fmt: skip


class Spooled(unittest.TestCase):
    def setUp(self) -> None:
        self.readings = 0

    def source(self) -> Iterator[OldAddress]:
        self.readings += 1
        yield from ROWS

    def test_each_reading_gives_the_same_and_the_source_is_read_once(self) -> None:
        with SpooledAnswers(self.source) as answers:
            for _reading in range(3):
                self.assertEqual(list(answers()), ROWS)
        self.assertEqual(self.readings, 1)

    def test_a_reading_that_is_broken_off_is_not_kept(self) -> None:
        with SpooledAnswers(self.source) as answers:
            self.assertEqual(list(islice(answers(), 700)), ROWS[:700])
            self.assertEqual(list(answers()), ROWS)
            self.assertEqual(list(answers()), ROWS)
        self.assertEqual(self.readings, 2)

    def test_none(self) -> None:
        with SpooledAnswers(list) as answers:
            self.assertEqual((list(answers()), list(answers())), ([], []))


if __name__ == "__main__":
    unittest.main()
