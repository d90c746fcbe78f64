"""The catalogue of problem codes: every code is in it, none is unused, and each says what to do."""

import ast
import subprocess
import sys
import unittest
from pathlib import Path

import newburrow
from newburrow.core.codes import Severity
from newburrow.core.problem import CODES, NOWHERE, Problem
from newburrow.model import Entry, Where

TOP = Path(newburrow.__file__).parent
RAISING = ("refusal", "about", "at", "say")  # functions that are given a code


def used() -> dict[str, str]:
    """Every code that the program names, with a place that names it."""
    found: dict[str, str] = {}
    for path in sorted(TOP.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if not isinstance(node, ast.Call):
                continue
            name = getattr(node.func, "id", getattr(node.func, "attr", ""))
            if name in RAISING:
                for argument in node.args[:2]:
                    if isinstance(argument, ast.Constant) and isinstance(argument.value, str):
                        found.setdefault(argument.value, f"{path.name}:{node.lineno}")
                        break
    return found


class Catalogue(unittest.TestCase):
    def test_no_code_is_unknown(self) -> None:
        unknown = {code: place for code, place in used().items() if code not in CODES}
        self.assertEqual(unknown, {})

    def test_no_code_is_unused(self) -> None:
        text = "".join(
            path.read_text("utf-8") for path in TOP.rglob("*.py") if path.name != "codes.py"
        )
        self.assertEqual([code for code in CODES if f'"{code}"' not in text], [])

    def test_each_says_what_it_means_and_what_to_do(self) -> None:
        for code, about in CODES.items():
            self.assertRegex(code, r"\A[a-z]+(-[a-z]+)*\Z")
            self.assertTrue(about.meaning.endswith(".") and about.action.endswith("."), code)

    def test_only_a_refusal_is_fatal(self) -> None:
        for path in TOP.rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text("utf-8"))):
                if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "refusal":
                    code = node.args[0]
                    if isinstance(code, ast.Constant):
                        self.assertIs(CODES[code.value].severity, Severity.FATAL, code.value)

    def test_the_page_is_made_from_it(self) -> None:
        root = Path(__file__).parent.parent.parent
        made = subprocess.run(
            [sys.executable, root / "tools/problem-codes"], capture_output=True, text=True
        )
        self.assertEqual(
            (root / "docs/problems.md").read_text("utf-8"), made.stdout, made.stderr
        )


class AboutARecord(unittest.TestCase):
    def test_place_and_key_come_from_the_record(self) -> None:
        entry = Entry(key="35", source=Where("feed.xml", 7))
        problem = Problem.about(entry, "no-tree", parent="“Owls {of} the bank”", kind="post")
        self.assertEqual(
            (problem.object, problem.key, problem.where), ("entry", "35", Where("feed.xml", 7))
        )
        self.assertEqual(problem.severity, Severity.WARNING)
        self.assertIn("“Owls {of} the bank”", problem.message)

    def test_a_fact_that_is_missing_is_a_fault(self) -> None:
        with self.assertRaises(KeyError):
            Problem.at(NOWHERE, "no-tree", kind="post")
