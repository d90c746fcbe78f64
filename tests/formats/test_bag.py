import json
import shutil

import bagit

from newburrow.core.problem import Problem
from newburrow.formats.bag.writer import plain
from newburrow.formats.exports import detection, export_records
from newburrow.model import Body, Entry, Where
from newburrow.model.reading import Mention
from newburrow.store.fill import fill
from tests.helpers import FolderCase, demo_export

TABLES = ("site", "author", "term", "media", "entry", "comment", "menuitem")


class Bags(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("export.zip", demo_export())
        self.run_ok("keep", "export.zip", "--out", "kept")

    def records(self, name: str) -> dict[str, list[object]]:
        """The records of a source by type, as a store holds them."""
        from newburrow.model.record_types import type_in

        found = export_records.records(detection.examine(self.folder / name))
        with fill(
            self.folder / f"{name}.sqlite",
            [[one for one in found if not isinstance(one, Problem)]],
            dict,
        ) as store:
            return {table: list(store.all(type_in(table).record)) for table in TABLES}

    def test_it_comes_back_record_for_record(self) -> None:
        kept, first = self.records("kept"), self.records("export.zip")
        self.assertEqual(kept, first)
        self.assertGreater(len(first["comment"]), 100)
        self.assertFalse([one for one in first["term"] if isinstance(one, Mention)])

    def test_equal_records_are_equal_bytes(self) -> None:
        own = Entry(key="1", body=Body("x", "".join(("ht", "ml"))), source=Where())
        self.assertEqual(plain(own), {"key": "1", "body": {"text": "x"}})

    def test_it_is_a_bag_to_others(self) -> None:
        self.assertTrue(bagit.Bag(str(self.folder / "kept")).validate())

    def test_it_moves_like_what_it_was_made_from(self) -> None:
        shutil.make_archive(str(self.folder / "kept-again"), "zip", self.folder, "kept")
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "one")
        self.run_ok("move", "kept-again.zip", "--to", "lanternlog", "--out", "two")
        for name in ("new/lanternlog-import.atom", "redirects/addresses.csv", "ledger.csv"):
            self.assertEqual(
                (self.folder / "one" / name).read_bytes(),
                (self.folder / "two" / name).read_bytes(),
                name,
            )

    def test_a_move_can_end_in_a_bag(self) -> None:
        self.run_ok("move", "export.zip", "--to", "bag", "--out", "m")
        self.assertTrue(bagit.Bag(str(self.folder / "m/new")).validate())
        counts = self.survey("m/new")["counts"]
        self.assertEqual((counts["post"], counts["page"], counts["comment"]), (61, 7, 142))

    def test_one_that_is_not_whole(self) -> None:
        model = self.folder / "kept/data/content-model/entry.jsonl"
        whole = model.read_bytes()
        model.write_bytes(whole.replace(b"orchard", b"forests"))
        self.assertIn(
            "is not what it was when the bag was made", self.refused("survey", "kept")
        )
        model.unlink()
        self.assertIn(
            "data/content-model/entry.jsonl is missing", self.refused("survey", "kept")
        )
        model.write_bytes(whole)
        (self.folder / "kept/data/more.txt").write_text("x")
        self.assertIn(
            "data/more.txt is in it but not in its manifest", self.refused("survey", "kept")
        )

    def test_a_line_that_is_no_record(self) -> None:
        model = self.folder / "kept/data/content-model/entry.jsonl"
        lines = model.read_bytes().splitlines()
        model.write_bytes(b"\n".join([lines[0], b'{"key": 5}', *lines[2:]]))
        # without its manifests it is a folder
        shutil.move(self.folder / "kept/data", self.folder / "data")
        self.assertIn("entry.jsonl, line 2", self.refused("survey", "data"))
        self.write("data/content-model/entry.jsonl", lines[0].replace(b"entry", b"entries"))
        self.assertIn("There is no type 'entries'", self.refused("survey", "data"))

    def test_another_bag_holds_what_it_holds(self) -> None:
        self.write(
            "b/feed.json",
            json.dumps({"version": "https://jsonfeed.org/version/1.1", "items": [{"id": "1"}]}),
        )
        bagit.make_bag(str(self.folder / "b"), checksums=["md5"])
        self.assertEqual(self.survey("b")["counts"], {"post": 1})

    def test_nothing_is_written_over(self) -> None:
        self.assertIn(
            "There is something at 'kept' already",
            self.refused("keep", "export.zip", "--out", "kept"),
        )
