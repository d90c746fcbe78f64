"""What a person sees on a terminal, and what a program reads from a pipe."""

import io
import os
import unittest
from contextlib import redirect_stdout
from unittest import mock

from newburrow.cli.screen import Screen

COUNTS = "5 modules, 20 lessons, 6 quizzes, 2 question-banks"


class Facts(unittest.TestCase):
    def shown(self, is_terminal: bool, columns: int = 40) -> str:
        out = io.StringIO()
        with (
            redirect_stdout(out),
            mock.patch.object(out, "isatty", return_value=is_terminal, create=True),
            mock.patch.dict(os.environ, {"COLUMNS": str(columns)}),
        ):
            Screen().fact("found", COUNTS)
        return out.getvalue()

    def test_a_long_one_goes_on_below_itself_on_a_terminal(self) -> None:
        lines = self.shown(True).splitlines()
        self.assertEqual(lines[0], "found       5 modules, 20 lessons, 6")
        self.assertTrue(all(line.startswith(" " * 12) for line in lines[1:]), lines)
        self.assertEqual(" ".join(" ".join(lines).split()[1:]), COUNTS)
        self.assertEqual(self.shown(True, 100), f"found       {COUNTS}\n")

    def test_it_is_one_line_elsewhere(self) -> None:
        self.assertEqual(self.shown(False), f"found       {COUNTS}\n")
