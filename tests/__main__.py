"""Runs all tests: `python -m tests`, or `python -m tests NAME...` for some.

All of them run a module at a time, in as many processes as there are cores.
"""

import os
import re
import subprocess
import sys
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

TOP = Path(__file__).parent
_LONG = {
    "test_scripts", "test_contract", "test_chaos", "test_move", "test_any_to_any", "test_wikis", "test_courses",
    "test_nothing_is_lost", "test_fuzz", "test_fuzz_readers",
}  # fmt: skip
_COUNTS = re.compile(r"(\d+) passed, (\d+) failed, (\d+) skipped")


def some(names: list[str]) -> int:
    """Run the tests of these names in this process."""
    suite = unittest.TestLoader().loadTestsFromNames(names)
    result = unittest.TextTestRunner(verbosity=1, warnings="default").run(suite)
    failed = len({str(test) for test, _ in [*result.failures, *result.errors]}) + len(
        result.unexpectedSuccesses
    )
    print(
        f"{result.testsRun - failed - len(result.skipped)} passed, {failed} failed, {len(result.skipped)} skipped"
    )
    return 0 if result.wasSuccessful() and result.testsRun and not result.skipped else 1


def module(path: Path) -> tuple[str, subprocess.CompletedProcess[str], float]:
    """Run the tests of one file in a process of their own; gives its name, what came of it, and the seconds it took."""
    name = ".".join(path.relative_to(TOP.parent).with_suffix("").parts)
    warnings = [f"-W{option}" for option in sys.warnoptions]
    started = time.monotonic()
    done = subprocess.run(
        [sys.executable, *warnings, "-m", "tests", name], capture_output=True, text=True
    )
    return name, done, time.monotonic() - started


def everything() -> int:
    """Run all files, the longest first, and add up."""
    paths = sorted(TOP.rglob("test_*.py"), key=lambda path: -path.stat().st_size)
    # Those that show pages or convert the demo many times take by far the longest, whatever their size.
    paths.sort(key=lambda path: path.stem not in _LONG)
    totals, wrong = [0, 0, 0], 0
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for name, done, seconds in pool.map(module, paths):
            counts = _COUNTS.search(done.stdout)
            totals = (
                [a + int(b) for a, b in zip(totals, counts.groups(), strict=True)]
                if counts
                else totals
            )
            wrong += done.returncode != 0
            if done.returncode or "Warning" in done.stderr:
                print(f"{name}\n{done.stderr}{'' if counts else done.stdout}", flush=True)
            else:
                print(f"{name}: {counts[1] if counts else 0} ({seconds:.0f} s)", flush=True)
    print(f"{totals[0]} passed, {totals[1]} failed, {totals[2]} skipped")
    return 1 if wrong or not totals[0] else 0


if __name__ == "__main__":
    sys.exit(some(sys.argv[1:]) if sys.argv[1:] else everything())
