"""What is written for a zip is there byte for byte when it is packed, and nothing of it is left behind."""

from __future__ import annotations

import tempfile
import unittest
import zipfile
from pathlib import Path

from newburrow.core.problem import BurrowError
from newburrow.decide.move_folder import MoveFolder
from newburrow.write import packing
from newburrow.write.output import FolderOutput

_LARGE = bytes(range(256)) * 1000


class TestStaging(unittest.TestCase):
    """Files are written through the output of a move, and packed."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "move"
        self.folder = MoveFolder.new(self.path)
        lock = self.folder.locked()
        lock.__enter__()
        self.addCleanup(lock.__exit__, None, None, None)
        self.output = FolderOutput(self.folder, False, is_packed=True)
        assert self.output.staging is not None
        self.addCleanup(self.output.staging.remove)

    def _write(self, name: str, *pieces: bytes) -> None:
        with self.output.open(name) as stream:
            for piece in pieces:
                stream.write(piece)

    def _packed(self) -> dict[str, bytes]:
        assert self.output.staging is not None
        (name,) = packing.pack(self.output.staging, "site.zip", 0)
        with zipfile.ZipFile(self.path / "new" / name) as archive:
            return {name: archive.read(name) for name in archive.namelist()}

    def test_small_and_large_files_are_packed_byte_for_byte(self) -> None:
        wanted = {
            "w/a.html": b"<p>a</p>",
            "w/empty.html": b"",
            "files/large.bin": _LARGE,
            "w/b.html": b"b" * 70_000,
        }
        for name, data in wanted.items():
            self._write(name, data[:10], data[10:])
        self.assertEqual(self._packed(), wanted)
        self.assertEqual([path.name for path in (self.path / "new").rglob("*")], ["site.zip"])
        self.assertEqual(self.output.written, sum(map(len, wanted.values())))

    def test_files_that_are_written_by_turns_do_not_mix(self) -> None:
        with self.output.open("one.html") as one, self.output.open("two.html") as two:
            for _ in range(3):
                one.write(b"1")
                two.write(b"2")
        self.assertEqual(self._packed(), {"one.html": b"111", "two.html": b"222"})

    def test_the_last_of_two_files_with_one_name_stays(self) -> None:
        self._write("a.html", _LARGE)
        self._write("a.html", b"small")
        self.assertEqual(self._packed(), {"a.html": b"small"})
        self.assertEqual([path.name for path in (self.path / "new").rglob("*")], ["site.zip"])

    def test_a_name_is_taken_from_its_opening_on(self) -> None:
        with self.output.open("a.html"):
            self.assertEqual(self.output.free_name("a.html"), "a-2.html")
        self.assertEqual(self.output.free_name("a.html"), "a-2.html")
        self.assertEqual(self.output.free_name("b.html"), "b.html")

    def test_a_name_that_leads_out_is_refused(self) -> None:
        for name in ("../a.html", "/a.html", "w/../../a.html", "a\0.html"):
            with self.subTest(name), self.assertRaises(BurrowError):
                self.output.open(name)

    def test_a_file_that_was_never_closed_is_not_lost_in_silence(self) -> None:
        stream = self.output.open("a.html")
        stream.write(b"text")
        with self.assertRaises(AssertionError):
            self._packed()
