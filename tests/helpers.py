"""What the tests share: the built program, a folder of its own for each test, small exports."""

from __future__ import annotations

import csv
import json
import os
import subprocess
import sys
import tempfile
import unittest
import zipfile
from functools import lru_cache
from pathlib import Path
from xml.sax.saxutils import escape

PROGRAM = Path(sys.executable).with_name("newburrow")
# How many times as many made-up inputs are tried as usually: `make fuzz` asks for more.
ROUNDS = int(os.environ.get("NEWBURROW_ROUNDS", "1"))
SITE = "https://mistlebank.example/"


def newburrow(
    *words: object, folder: Path, env: dict[str, str] | None = None
) -> subprocess.CompletedProcess[str]:
    """Run the installed program."""
    return subprocess.run(
        [PROGRAM, *map(str, words)],
        cwd=folder,
        capture_output=True,
        text=True,
        timeout=120,
        env={**os.environ, **(env or {})},
    )


class FolderCase(unittest.TestCase):
    """A test with a folder of its own."""

    def setUp(self) -> None:
        keeper = tempfile.TemporaryDirectory()
        self.addCleanup(keeper.cleanup)
        self.folder = Path(keeper.name)

    def run_ok(self, *words: object, status: int = 0) -> str:
        """Run the program, which must end with this status; gives what it printed."""
        done = newburrow(*words, folder=self.folder)
        self.assertEqual(done.returncode, status, f"{words}\n{done.stdout}\n{done.stderr}")
        self.assertNotIn("Traceback", done.stderr)
        return done.stdout

    def refused(self, *words: object) -> str:
        """Run the program, which must refuse with status 2 and write nothing; gives its message."""
        before = sorted(self.folder.rglob("*"))
        done = newburrow(*words, folder=self.folder)
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
