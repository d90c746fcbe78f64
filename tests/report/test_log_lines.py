"""The lines of a log that are about one object."""

import json

from newburrow.core.problem import BurrowError
from newburrow.report.log_lines import MOST, lines_about
from tests.helpers import FolderCase


class Lines(FolderCase):
    """Of both kinds of log."""

    def test_of_a_text(self) -> None:
        ours = "2026-01-01 DEBUG x fate: object='entry' key='5' kind='post'"
        others = (
            "2026-01-01 DEBUG x fate: object='entry' key='55' kind='post'",
            "2026-01-01 DEBUG x fate: object='comment' key='5' kind='comment'",
            "2026-01-01 INFO x step",
        )
        log = self.write(
            "l.txt", "\n".join((*others, ours, "x follow-up: object='entry' key='5'"))
        )
        self.assertEqual(
            lines_about(log, "entry", "5"), [ours, "x follow-up: object='entry' key='5'"]
        )

    def test_of_json_lines(self) -> None:
        ours = json.dumps({"message": "fate", "object": "entry", "key": "it's 5"})
        log = self.write(
            "l.jsonl", f'{ours}\n{{"object": "entry", "key": "5"}}\n{{broken\n[1]\n' * 2
        )
        self.assertEqual(lines_about(log, "entry", "it's 5"), [ours, ours])

    def test_very_many_and_none(self) -> None:
        log = self.write("l.txt", "object='entry' key='5'\n" * (2 * MOST))
        self.assertEqual(len(lines_about(log, "entry", "5")), MOST)
        with self.assertRaises(BurrowError):
            lines_about(self.folder / "nothing", "entry", "5")
