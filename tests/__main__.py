"""Runs all tests: `python -m tests`, or `python -m tests NAME...` for some.

All of them run a module at a time, in as many processes as there are cores.
"""

import os
import re
import shutil
import sys
import tempfile
import time
import unittest
from collections import deque
from pathlib import Path

from newburrow.commands.move import move_paths
from newburrow.commands.verify import verify_folder
from newburrow.decide.draft import DraftRequest
from newburrow.decide.move_folder import MoveFolder
from newburrow.demo import export
from newburrow.formats.exports.export import ExportRequest

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


def everything() -> int:
    """Run all files, the longest first, each in a process of its own, and add up."""
    paths = sorted(TOP.rglob("test_*.py"), key=lambda path: -path.stat().st_size)
    # Those that show pages or convert the demo many times take by far the longest, whatever their size.
    paths.sort(key=lambda path: path.stem not in _LONG)
    _warm_up()
    # A TemporaryDirectory would be removed by the first process that ends.
    folder = Path(tempfile.mkdtemp())
    waiting, running = deque(paths), dict[int, _Running]()
    totals, wrong = [0, 0, 0], 0
    while waiting or running:
        while waiting and len(running) < (os.cpu_count() or 1):
            started = _Running(waiting.popleft(), folder)
            running[started.process] = started
        process, status = os.wait()
        if process not in running:
            continue
        done = running.pop(process)
        counts = done.end(status)
        totals = [total + count for total, count in zip(totals, counts, strict=True)]
        wrong += status != 0
    shutil.rmtree(folder)
    print(f"{totals[0]} passed, {totals[1]} failed, {totals[2]} skipped")
    return 1 if wrong or not totals[0] else 0


def _warm_up() -> None:
    """Move the demo once, so that processes begin with all that every run imports, loads and compiles."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        export.write(folder / "export.zip")
        plan = DraftRequest(ExportRequest([folder / "export.zip"]), "reedpost")
        move_paths(plan, folder / "move", jobs=1)
        verify_folder(MoveFolder.existing(folder / "move"), jobs=1)


class _Running:
    """The tests of one file, run in a fork of this process."""

    def __init__(self, path: Path, folder: Path) -> None:
        """`folder` takes what is said."""
        self._name = ".".join(path.relative_to(TOP.parent).with_suffix("").parts)
        self._began = time.monotonic()
        self._said = [folder / f"{self._name}.{stream}" for stream in ("out", "err")]
        sys.stdout.flush()
        self.process = os.fork()
        if not self.process:
            for number, said in enumerate(self._said, 1):
                opened = os.open(said, os.O_WRONLY | os.O_CREAT)
                os.dup2(opened, number)
                os.close(opened)
            sys.exit(some([self._name]))

    def end(self, status: int) -> list[int]:
        """Say what came of it, with all that was said if something is wrong; gives how many passed, failed, skipped."""
        said = [path.read_text("utf-8", "replace") for path in self._said]
        counts = _COUNTS.search(said[0])
        if status or "Warning" in said[1]:
            print(f"{self._name}\n{said[1]}{'' if counts else said[0]}", flush=True)
        elif counts:
            seconds = time.monotonic() - self._began
            print(f"{self._name}: {counts[1]} ({seconds:.0f} s)", flush=True)
        return [int(count) for count in counts.groups()] if counts else [0, 0, 0]


if __name__ == "__main__":
    sys.exit(some(sys.argv[1:]) if sys.argv[1:] else everything())
