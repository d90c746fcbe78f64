"""Other processes: how many, in which order, what comes back from them, and how they end."""

import os
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from newburrow.core import workers
from newburrow.core.problem import BurrowError, refusal
from newburrow.core.workers import Pool
from newburrow.model.record import Where
from tests.helpers import FolderCase, item, rss


def slow_square(number: int) -> int:
    """The first take longest, so that what comes back is out of order unless it is put in order."""
    time.sleep(0.2 if number == 0 else 0)
    return number * number


def refuse(line: int) -> None:
    raise refusal("wrong-value", "This is wrong.", "Correct it.", Where("move.toml", line))


def die() -> None:
    os._exit(3)


class Pools(unittest.TestCase):
    def test_what_comes_back_is_in_order(self) -> None:
        with Pool(2) as pool:
            found = list(pool.ordered(slow_square, ((number,) for number in range(40))))
        self.assertEqual(found, [number * number for number in range(40)])

    def test_an_error_comes_back_with_its_type_and_place(self) -> None:
        with Pool(1) as pool:
            work = pool.start(refuse, 7)
            with self.assertRaises(BurrowError) as caught:
                work.result()
        problem = caught.exception.problem
        self.assertEqual(
            (problem.code, str(problem.where)), ("wrong-value", "move.toml, line 7")
        )

    def test_a_process_that_was_ended_is_a_plain_message(self) -> None:
        with Pool(1) as pool, self.assertRaises(BurrowError) as caught:
            pool.start(die).result()
        self.assertEqual(caught.exception.problem.code, "process-ended")


class Available(unittest.TestCase):
    def test_affinity_counts(self) -> None:
        with (
            mock.patch("os.sched_getaffinity", lambda _pid: {0, 3, 5}),
            mock.patch.object(workers, "_CGROUP", Path("/nowhere")),
        ):
            self.assertEqual(workers.available(), 3)

    def test_the_quota_of_a_container_counts(self) -> None:
        for files, cores in (
            ({"cpu.max": "150000 100000\n"}, 2),
            ({"cpu.max": "max 100000\n"}, 8),
            ({"cpu.max": "10000 100000\n"}, 1),
            ({"cpu/cpu.cfs_quota_us": "400000\n", "cpu/cpu.cfs_period_us": "100000\n"}, 4),
            ({"cpu/cpu.cfs_quota_us": "-1\n", "cpu/cpu.cfs_period_us": "100000\n"}, 8),
            ({}, 8),
        ):
            with tempfile.TemporaryDirectory() as name, self.subTest(files):
                for file, text in files.items():
                    path = Path(name) / file
                    path.parent.mkdir(exist_ok=True)
                    path.write_text(text)
                with (
                    mock.patch("os.sched_getaffinity", lambda _pid: set(range(8))),
                    mock.patch.object(workers, "_CGROUP", Path(name)),
                ):
                    self.assertEqual(workers.available(), cores)


class Others(FolderCase):
    def test_they_end_when_the_first_process_is_killed(self) -> None:
        script = self.write(
            "first.py",
            "import os, time\nfrom newburrow.core.workers import Pool\npool = Pool(1)\n"
            "print(pool.start(os.getpid).result(), flush=True)\npool.start(time.sleep, 300).result()\n",
        )
        with subprocess.Popen(
            [sys.executable, script], stdout=subprocess.PIPE, text=True
        ) as first:
            assert first.stdout is not None
            other = int(first.stdout.readline())
            os.kill(other, 0)
            first.kill()
        until = time.monotonic() + 30
        with self.assertRaises(ProcessLookupError):
            while time.monotonic() < until:
                os.kill(other, 0)
                time.sleep(0.05)

    def test_a_script_without_a_guard_moves_a_large_export(self) -> None:
        self.write(
            "feed.xml",
            rss(*(item(f"Post {n}", f"https://mistlebank.example/{n}/") for n in range(2600))),
        )
        script = self.write(
            "script.py",
            "from pathlib import Path\nfrom newburrow.commands.move import move_paths\n"
            "from newburrow.decide.draft import DraftRequest\n"
            "from newburrow.formats.exports.export import ExportRequest\n"
            "outcome = move_paths(DraftRequest(ExportRequest([Path('feed.xml')]), 'lanternlog'), Path('m'), jobs=2)\n"
            "print('posts', outcome.counts['post'].moved)\n",
        )
        done = subprocess.run(
            [sys.executable, script],
            cwd=self.folder,
            capture_output=True,
            text=True,
            timeout=120,
        )
        self.assertEqual((done.stdout, done.stderr, done.returncode), ("posts 2600\n", "", 0))

    def test_the_number_of_jobs_is_checked_and_changes_nothing(self) -> None:
        self.write(
            "feed.xml",
            rss(*(item(f"Post {n}", f"https://mistlebank.example/{n}/") for n in range(2100))),
        )
        for jobs in (1, 3):
            self.run_ok(
                "move", "feed.xml", "--to", "lanternlog", "--out", f"m{jobs}", "--jobs", jobs
            )
        for name in ("ledger.csv", "redirects/addresses.csv", "follow-ups.csv"):
            one, three = ((self.folder / f"m{jobs}" / name).read_bytes() for jobs in (1, 3))
            self.assertEqual(one, three, name)
        for wrong in ("0", "-1", "many", "257"):
            self.assertIn(
                "is not a number from 1 to 256",
                self.refused("survey", "feed.xml", f"--jobs={wrong}"),
            )
