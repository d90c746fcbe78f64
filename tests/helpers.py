"""What the tests share: the built program, a folder of its own for each test, small exports."""

from __future__ import annotations

import contextlib
import csv
import filecmp
import importlib
import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import traceback
import unittest
import warnings
import zipfile
from collections.abc import Sequence
from functools import lru_cache
from multiprocessing import forkserver
from pathlib import Path
from typing import NoReturn
from xml.sax.saxutils import escape

from newburrow.cli import main

PROGRAM = Path(sys.executable).with_name("newburrow")
# How many times as many made-up inputs are tried as usually: `make fuzz` asks for more.
ROUNDS = int(os.environ.get("NEWBURROW_ROUNDS", "1"))
SITE = "https://mistlebank.example/"
LONGEST = 240  # seconds that a run of the program may take


def newburrow(
    *words: object, folder: Path, env: dict[str, str] | None = None
) -> subprocess.CompletedProcess[str]:
    """Run the installed program."""
    return subprocess.run(
        [PROGRAM, *map(str, words)],
        cwd=folder,
        capture_output=True,
        text=True,
        timeout=LONGEST,
        env={**os.environ, **(env or {})},
    )


def in_fork(words: Sequence[object], folder: Path) -> subprocess.CompletedProcess[str]:
    """Run the program as `newburrow` does, in a fork of this process, which spares it the second of its imports.

    Where this process has started others by then, which a fork would take for its own, the program itself runs.
    """
    if forkserver._forkserver._forkserver_pid is not None:  # type: ignore[attr-defined]
        return newburrow(*words, folder=folder)
    arguments = [str(word) for word in words]
    command = next((word for word in arguments if word in main.COMMANDS), "")
    if command:
        importlib.import_module(f"newburrow.cli.{command}")
    with tempfile.TemporaryFile() as out, tempfile.TemporaryFile() as err:
        sys.stdout.flush()
        sys.stderr.flush()
        child = os.fork()
        if not child:
            _be_the_program(arguments, folder, out.fileno(), err.fileno())
        status = _waited_for(child, arguments)
        out.seek(0)
        err.seek(0)
        said = out.read().decode("utf-8"), err.read().decode("utf-8")
    return subprocess.CompletedProcess(arguments, status, *said)


def _be_the_program(arguments: list[str], folder: Path, out: int, err: int) -> NoReturn:
    """Run the program in this process, which ends with it."""
    status = 70
    try:
        os.chdir(folder)
        os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
        os.dup2(out, 1)
        os.dup2(err, 2)
        sys.stdin = open(0, closefd=False)  # noqa: SIM115
        sys.stdout = open(1, "w", encoding="utf-8", closefd=False)  # noqa: SIM115
        sys.stderr = open(2, "w", encoding="utf-8", closefd=False)  # noqa: SIM115
        sys.argv = [str(PROGRAM), *arguments]
        warnings.simplefilter("ignore")
        status = main.main(arguments)
    except SystemExit as error:
        status = error.code if isinstance(error.code, int) else 1
    except BaseException:
        traceback.print_exc()
    finally:
        with contextlib.suppress(BaseException):
            sys.stdout.flush()
            sys.stderr.flush()
        os._exit(status)


def _waited_for(child: int, arguments: list[str]) -> int:
    """The exit status of a process; one that takes too long is stopped."""
    last = time.monotonic() + LONGEST
    while True:
        ended, status = os.waitpid(child, os.WNOHANG)
        if ended:
            return os.waitstatus_to_exitcode(status)
        if time.monotonic() > last:
            os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
            raise subprocess.TimeoutExpired(arguments, LONGEST)
        time.sleep(0.005)


class FolderCase(unittest.TestCase):
    """A test with a folder of its own."""

    def setUp(self) -> None:
        keeper = tempfile.TemporaryDirectory()
        self.addCleanup(keeper.cleanup)
        self.folder = Path(keeper.name)

    def run_ok(self, *words: object, status: int = 0) -> str:
        """Run the program, which must end with this status; gives what it printed."""
        done = in_fork(words, self.folder)
        self.assertEqual(done.returncode, status, f"{words}\n{done.stdout}\n{done.stderr}")
        self.assertNotIn("Traceback", done.stderr)
        return done.stdout

    def refused(self, *words: object) -> str:
        """Run the program, which must refuse with status 2 and write nothing; gives its message."""
        before = sorted(self.folder.rglob("*"))
        done = in_fork(words, self.folder)
        self.assertEqual(done.returncode, 2, f"{words}\n{done.stdout}\n{done.stderr}")
        self.assertNotIn("Traceback", done.stderr)
        self.assertEqual(done.stdout, "")
        self.assertEqual(sorted(self.folder.rglob("*")), before)
        return done.stderr

    def write(self, name: str, text: str | bytes) -> Path:
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(text if isinstance(text, bytes) else text.encode("utf-8"))
        return path

    def survey(self, *words: object) -> dict:
        return json.loads(self.run_ok("survey", *words, "--json"))


def rows(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as stream:
        return list(csv.DictReader(stream))


def item(title: str, link: str, body: str = "", extra: str = "") -> str:
    return (
        f"<item><title>{escape(title)}</title><link>{escape(link)}</link>"
        f"<description>{escape(body)}</description>{extra}</item>\n"
    )


def rss(*items: str, head: str = "", attributes: str = "") -> str:
    """An RSS 2.0 document of the orchard."""
    return (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<rss version="2.0" {attributes}><channel>\n'
        f"<title>Mistle Bank Orchard</title><link>{SITE}</link><description/>{head}\n{''.join(items)}</channel></rss>\n"
    )


@lru_cache(maxsize=1)
def same(one: Path, other: Path) -> list[str]:
    """What differs between two folders."""
    found = filecmp.dircmp(one, other)
    _same, differing, unread = filecmp.cmpfiles(one, other, found.common_files, shallow=False)
    wrong = [*found.left_only, *found.right_only, *differing, *unread]
    for name in found.common_dirs:
        wrong += same(one / name, other / name)
    return wrong


def demo_export() -> bytes:
    """The bytes of the demo's export, made once."""
    from newburrow.demo import export

    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "export.zip"
        export.write(path)
        return path.read_bytes()


def unpack_zips(folder: Path) -> None:
    """Replace the zips in a folder by what is in them."""
    for path in sorted((*folder.glob("*.zip"), *folder.glob("*.imscc"))):
        with zipfile.ZipFile(path) as archive:
            archive.extractall(folder)
        path.unlink()


def zipped(path: Path, **files: bytes) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name.replace("__", "/"), data)
    return path
