"""Each parser with its own inputs and some changed ones: no fault, no hang. `make fuzz MINUTES=60` goes on."""

import tempfile
import unittest
from pathlib import Path

from tests.fuzz.campaign import Campaign
from tests.fuzz.targets import targets
from tests.helpers import ROUNDS


class Targets(unittest.TestCase):
    def test_no_input_is_a_fault(self) -> None:
        for name, target in targets().items():
            with self.subTest(name), tempfile.TemporaryDirectory() as folder:
                campaign = Campaign(target, Path(folder), 1)
                campaign.run(
                    lambda number, most=len(target.seeds) + 40 * ROUNDS: number >= most
                )  # type: ignore[misc]
                self.assertEqual([text for _data, text in campaign.faults], [])
                self.assertEqual(campaign.hangs, [])

    def test_a_fault_is_found(self) -> None:
        target = targets()["dates"]._replace(
            run=lambda data, _folder: 1 / (data.count(b"<") < 3)
        )
        with tempfile.TemporaryDirectory() as folder:
            campaign = Campaign(target, Path(folder), 1)
            campaign.run(lambda number: number > 3000 or bool(campaign.faults))
        self.assertIn("ZeroDivisionError", campaign.faults[0][1])
