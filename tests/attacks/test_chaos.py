"""Moves that are killed, find the disk full, or meet another one: the next that is left alone ends with the same bytes."""

import hashlib
import os
import random
import resource
import signal
import subprocess
import time
from collections.abc import Callable

from tests.helpers import PROGRAM, ROUNDS, SITE, FolderCase, item, rss

ALLOWED = {0, 2, -signal.SIGKILL}


class Chaos(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.chance = random.Random(self.id())
        items = (item(f"P{n}", f"{SITE}p{n}/", f'<p>{"word " * 50}<img src="/files/{n % 40}.png"></p>') for n in range(300))  # fmt: skip
        self.write("e/feed.xml", rss(*items))
        for number in range(40):
            self.write(f"e/files/{number}.png", os.urandom(3000) if number % 2 else b"x" * 3000)
        self.run_ok("draft", "e", "--to", "reedpost", "--out", "m", "--quiet")
        began = time.monotonic()
        self.run_ok("move", "m", "--quiet")
        self.whole = time.monotonic() - began
        self.right = self.bytes_of()

    def bytes_of(self) -> dict[str, str]:
        """A digest of every file of the move."""
        folder = self.folder / "m"
        return {
            path.relative_to(folder).as_posix(): hashlib.sha256(path.read_bytes()).hexdigest()
            for path in sorted(folder.rglob("*"))
            if path.is_file()
        }

    def started(self, before: Callable[[], None] | None = None) -> subprocess.Popen[bytes]:
        words = [PROGRAM, "move", "m", "--quiet", "--jobs", str(self.chance.choice((1, 2)))]
        return subprocess.Popen(
            words,
            cwd=self.folder,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            preexec_fn=before,
        )

    def ended(self, process: subprocess.Popen[bytes], seconds: float = 120) -> None:
        """Wait for a process, and kill it after so many seconds."""
        try:
            _out, said = process.communicate(timeout=seconds)
        except subprocess.TimeoutExpired:
            process.send_signal(signal.SIGKILL)
            _out, said = process.communicate()
        self.assertIn(process.returncode, ALLOWED, said)
        self.assertNotIn(b"Traceback", said)
        self.assertNotIn(b"a fault in New Burrow", said)

    def kill(self) -> None:
        self.ended(self.started(), self.chance.uniform(0.1, self.whole))

    def no_room(self) -> None:
        most = self.chance.choice((0, 100, 5_000, 50_000, 200_000, 400_000))

        def limited() -> None:
            resource.setrlimit(resource.RLIMIT_FSIZE, (most, most))

        self.ended(self.started(limited))

    def two_at_once(self) -> None:
        first = self.started()
        time.sleep(self.chance.uniform(0, self.whole))
        second = self.started()
        for process in (first, second):
            self.ended(process, self.chance.choice((self.whole / 2, 120)))

    def lost(self) -> None:
        """What a person may delete between two runs."""
        names = [
            name
            for name in self.right
            if name not in ("move.toml", "authors.csv", "terms.csv", ".written")
        ]
        (self.folder / "m" / self.chance.choice(names)).unlink(missing_ok=True)

    def test_the_same_bytes_whatever_happened_before(self) -> None:
        beside = {path.name for path in self.folder.iterdir()}
        attacks = (self.kill, self.no_room, self.two_at_once, self.lost)
        for _round in range(3 * ROUNDS):
            done = [
                self.chance.choice(attacks) for _attack in range(self.chance.choice((1, 2, 3)))
            ]
            for attack in done:
                attack()
            self.run_ok("move", "m", "--quiet")
            self.assertEqual(self.bytes_of(), self.right, [attack.__name__ for attack in done])
        self.assertEqual({path.name for path in self.folder.iterdir()}, beside)
