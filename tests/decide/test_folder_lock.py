"""Two runs in one folder, names in `.written` that lead elsewhere, results within what is read, exports that change."""

import fcntl
import os

from newburrow.core.problem import BurrowError
from newburrow.core.progress import Event
from newburrow.decide.folder_lock import LOCK, locked
from newburrow.formats.exports import several
from newburrow.formats.exports.export import ExportRequest
from newburrow.store.build import filled_store
from tests.helpers import SITE, FolderCase, item, rss

FEED = rss(*(item(f"P{n}", f"{SITE}p{n}/") for n in range(120)))


class Locks(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("a.xml", FEED)
        self.run_ok("draft", "a.xml", "--to", "jsonfeed", "--out", "m", "--quiet")

    def test_a_second_run_is_refused_and_says_who_is_at_it(self) -> None:
        before = {path: path.read_bytes() for path in self.folder.rglob("*") if path.is_file()}
        with locked(self.folder / "m"):
            for words in (("move", "m"), ("move", "a.xml", "--to", "jsonfeed", "--out", "m"), ("draft", "a.xml", "--to", "jsonfeed", "--out", "m"),
                          ("redirects", "m", "--for", "nginx")):  # fmt: skip
                said = self.refused(*words)
                self.assertIn(f"process {os.getpid()} on", said)
        self.assertFalse((self.folder / "m" / LOCK).exists())
        self.assertEqual({path: path.read_bytes() for path in before}, before)

    def test_a_lock_of_a_run_that_was_killed_is_told_apart(self) -> None:
        self.write(f"m/{LOCK}", '{"process": 99, "machine": "shed", "since": "2024-01-01T00:00:00+00:00"}')  # fmt: skip
        draft = ("draft", "a.xml", "--to", "jsonfeed", "--out", "m")
        self.run_ok(*draft, "--log", "log")
        self.assertIn("process 99", (self.folder / "log").read_text("utf-8"))
        for data in (b"", b"\xff\x00", b"[]"):
            self.write(f"m/{LOCK}", data)
            self.run_ok(*draft)
            self.assertFalse((self.folder / "m" / LOCK).exists())

    def test_a_lock_that_another_removes_is_taken_anew(self) -> None:
        with (self.folder / "m" / LOCK).open("w") as held:
            fcntl.flock(held, fcntl.LOCK_EX)
            self.assertRaises(BurrowError, locked(self.folder / "m").__enter__)
        with locked(self.folder / "m") as left:
            self.assertIsNone(left)

    def test_nothing_is_deleted_outside_the_folder(self) -> None:
        victim, other = self.write("victim", "x"), self.write("m/mine.txt", "x")
        (self.folder / "m/new").mkdir()
        (self.folder / "m/new/link").symlink_to(self.folder)
        names = ("../victim", str(victim), "new/../../victim", "new/link/victim", "new/\x00", "new/./../../victim")  # fmt: skip
        with (self.folder / "m/.written").open("a") as notes:
            notes.write("".join(f"{name}\n" for name in names))
        self.run_ok("move", "m")
        self.assertTrue(victim.exists() and other.exists())

    def test_nothing_is_written_into_what_is_read(self) -> None:
        self.write("e/a.xml", FEED)
        for words in (("move", "e", "--to", "jsonfeed", "--out", "e/m"), ("draft", "e", "--to", "jsonfeed", "--out", "e"),
                      ("keep", "e", "--out", "e/b"), ("draft", "a.xml", "--to", "jsonfeed", "--out", "e/m", "--holds", "e")):  # fmt: skip
            self.assertRegex(self.refused(*words), "which is read|already")
        self.assertEqual([path.name for path in (self.folder / "e").iterdir()], ["a.xml"])

    def test_a_folder_beside_the_bag_is_not_removed(self) -> None:
        mine = self.write("b.part/mine.txt", "x")
        self.run_ok("keep", "a.xml", "--out", "b")
        self.assertTrue(mine.exists())

    def test_an_export_that_changes_is_noticed(self) -> None:
        self.write("e/a.xml", FEED)
        for name, change in (("a.xml", "a.xml"), ("e", "e/a.xml"), ("e", "e/b.png")):
            exports = several.examine_all(ExportRequest([self.folder / name]))

            def writes(_event: Event, change: str = change) -> None:
                self.write(change, FEED.replace("P1", "Q1"))

            with self.assertRaises(BurrowError) as caught:
                filled_store(self.folder / "c.sqlite", exports, writes)
            self.assertEqual(caught.exception.problem.code, "export-changed")
            self.assertFalse((self.folder / "c.sqlite").exists())
