"""What a move came to: an error is never a success."""

import unittest

from newburrow.report.accounting import Account
from newburrow.report.outcome import Outcome


def outcome(failed: int = 0, **follow_ups: int) -> Outcome:
    account = Account(found=3, moved=3 - failed, failed=failed)
    return Outcome({"question": account}, {}, follow_ups, (0, 0), None, [])


class Outcomes(unittest.TestCase):
    def test_the_worst_decides(self) -> None:
        for found, is_complete, tone, words in (
            (outcome(), True, "good", "nothing needs a person"),
            (outcome(warning=1, note=5), True, "good", "1 thing needs a person"),
            (outcome(error=1, warning=2), False, "warn", "1 error has to be settled"),
            (outcome(failed=2, error=2), False, "warn", "2 objects could not be moved"),
        ):
            self.assertEqual((found.complete, found.verdict.tone), (is_complete, tone))
            self.assertIn(words, found.verdict.sentence)
