"""Work shared among processes: the same bytes as by one, and as after a run that was killed."""

import filecmp
import random
import signal
import sqlite3
import subprocess
import time
from pathlib import Path
from unittest import mock

from newburrow.convert import pool
from newburrow.convert.conversion import convert
from newburrow.convert.converted import Converted
from newburrow.convert.plan.entry_place import Placed, place
from newburrow.core.progress import nobody
from newburrow.formats.exports import several
from newburrow.formats.exports.export import ExportRequest
from newburrow.model import Entry
from newburrow.store import fill, split_reading
from newburrow.store.merge.merge_exports import unite
from newburrow.store.new_store import NewStore
from tests.convert.cases import MoveCase
from tests.decide.test_rules import orchard
from tests.helpers import PROGRAM, ROUNDS, SITE, FolderCase, demo_export, item, rss

SPACE = 'xmlns:rp="https://reedpost.example/ns/archive/2" xmlns:dc="http://purl.org/dc/elements/1.1/"'


def told(n: int) -> str:
    """An item with an author, a term, a file, a comment, and a link to another."""
    return item(
        f"Post {n}", f"{SITE}2023/05/06/post-{n}/", f'<p>See <a href="/?entry={n // 2}">that</a> and <a href="/none/{n % 9}">this</a></p>',
        f"<dc:creator>Author {n % 5}</dc:creator><category>Tag {n % 7}</category><rp:id>{n % 3900}</rp:id><rp:odd>x{n}</rp:odd>"
        f'<enclosure url="https://sounds.example/{n}.ogg" length="1" type="audio/ogg"/>'
        f'<rp:reply id="{n}c"><rp:name>Jo</rp:name><rp:text>Fine</rp:text></rp:reply>',
    )  # fmt: skip


def feed(count: int) -> str:
    head = f"<link>{SITE}</link><rp:writer handle='a'><rp:name>Author 1</rp:name></rp:writer>"
    return rss(*map(told, range(count)), head=head, attributes=SPACE)


def dump(path: Path) -> list[str]:
    with sqlite3.connect(path) as db:
        return list(db.iterdump())


class Halves(FolderCase):
    def filled(self, name: str, path: Path) -> list[list[str]]:
        """The dumps of stores filled by one process and by two."""
        exports = several.examine_all(ExportRequest([path]))
        with fill.fill(
            self.folder / f"{name}-1", several.records(exports, nobody), dict, unite
        ):
            pass
        cut = split_reading.find(exports, 2, large=1)
        assert cut is not None
        with fill.filled(
            self.folder / f"{name}-2",
            lambda new: split_reading.put(new, exports[0], cut, nobody),
            dict,
            unite,
        ):
            pass
        return [dump(self.folder / f"{name}-{n}") for n in (1, 2)]

    def test_two_halves_make_the_store_that_one_makes(self) -> None:
        # From 3,900 on ids come a second time, in the other half.
        for name, path in (
            ("feed", self.write("feed.xml", feed(4100))),
            ("demo", self.write("demo.zip", demo_export())),
        ):
            one, two = self.filled(name, path)
            self.assertEqual(one, two)
            self.assertEqual([path.name for path in self.folder.glob("*-half")], [])

    def test_what_halves_cannot_tell_is_read_in_one(self) -> None:
        for name, text in (
            ("broken", feed(40).replace("<title>Post 39", "<title>Post & 39")),
            ("unnamed", rss(*(f"<item><description>{n}</description></item>\n" for n in range(9)), head=f"<link>{SITE}</link>")),
        ):  # fmt: skip
            path = self.write(f"{name}.xml", text)
            exports = several.examine_all(ExportRequest([path]))
            cut = split_reading.find(exports, 2, large=1)
            assert cut is not None
            new = NewStore(self.folder / name)
            with new, self.assertRaises(split_reading.CannotSplit):
                split_reading.put(new, exports[0], cut, nobody)


class Pool(MoveCase):
    def test_the_same_entries_in_the_same_order(self) -> None:
        self.converted(
            *orchard(),
            *(Entry(key=f"x{n}", slug=f"x{n}", permalink=f"{SITE}x{n}/") for n in range(250)),
        )
        with mock.patch.object(pool, "SHARED", 1):
            shared = list(pool.each(self.context, convert, Converted, 2))
            placed = list(pool.each(self.context, place, Placed, 2))
        self.assertEqual(shared, list(pool.each(self.context, convert, Converted, 1)))
        self.assertEqual(placed, list(pool.each(self.context, place, Placed, 1)))
        self.assertEqual((len(shared), len(placed)), (255, 255))


class Killed(FolderCase):
    def test_a_move_that_was_killed_ends_with_the_same_bytes(self) -> None:
        self.write("feed.xml", feed(2500))
        chance = random.Random(20)
        for name in ("one", "two"):
            self.run_ok("draft", "feed.xml", "--to", "reedpost", "--out", name)
        (self.folder / "two/content.sqlite").unlink()
        began = time.monotonic()
        self.run_ok("move", "one")
        whole = time.monotonic() - began
        for _time in range(7 * ROUNDS):  # the chaos test kills too
            with subprocess.Popen(
                [PROGRAM, "move", "two"],
                cwd=self.folder,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            ) as process:
                try:
                    process.wait(chance.uniform(0.2, whole))
                except subprocess.TimeoutExpired:
                    process.send_signal(signal.SIGKILL)
        self.run_ok("move", "two")
        names = [
            sorted(
                path.relative_to(self.folder / name).as_posix()
                for path in (self.folder / name).rglob("*")
            )
            for name in ("one", "two")
        ]
        self.assertEqual(*names)
        files = [name for name in names[0] if (self.folder / "one" / name).is_file()]
        _same, differing, odd = filecmp.cmpfiles(
            self.folder / "one", self.folder / "two", files, shallow=False
        )
        self.assertEqual((differing, odd), ([], []))
