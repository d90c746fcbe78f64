import csv

from tests.helpers import FolderCase, demo_export, rows


class TheTableOfEntries(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("export.zip", demo_export())
        self.draft()
        self.table = self.folder / "m/entries.csv"

    def draft(self, *more: str) -> None:
        self.run_ok(
            "draft", "export.zip", "--to", "plainleaf", "--out", "m", "--entries", *more
        )

    def change(self, title: str, /, **cells: str) -> None:
        table = rows(self.table)
        for row in table:
            if row["title"] == title:
                row.update(cells)
        with self.table.open("w", newline="", encoding="utf-8") as stream:
            writer = csv.DictWriter(stream, list(table[0]))
            writer.writeheader()
            writer.writerows(table)

    def moved(self) -> dict[str, dict[str, str]]:
        self.run_ok("move", "m")
        return {
            row["title"]: row
            for row in rows(self.folder / "m/ledger.csv")
            if row["kind"] in ("post", "page")
        }

    def test_a_table_that_nobody_touched_changes_nothing(self) -> None:
        self.assertEqual(len(rows(self.table)), 71)
        self.moved()
        before = {
            path: path.read_bytes() for path in sorted((self.folder / "m").glob("new/**/*.md"))
        }
        self.table.unlink()
        self.moved()
        self.assertEqual(before, {path: path.read_bytes() for path in before})

    def test_what_a_cell_changes(self) -> None:
        self.change(
            "Volunteer", kind="post", slug="lend-a-hand", date="2022-03-04", status="draft"
        )
        self.change("Hello from the bank", action="leave")
        self.change("Two lanterns", title="Three lanterns", author="Marta Quill")
        ledger = self.moved()
        self.assertEqual(
            ledger["Volunteer"]["new_address"],
            "https://mistlebank.example/2022-03-04/lend-a-hand",
        )
        self.assertEqual(ledger["Volunteer"]["kind"], "page")
        self.assertEqual(
            (ledger["Hello from the bank"]["fate"], ledger["Hello from the bank"]["reason"]),
            ("left-out", "left out in entries.csv"),
        )
        texts = [path.read_text() for path in (self.folder / "m/new").rglob("*.md")]
        lantern = next(text for text in texts if "title: Three lanterns" in text)
        self.assertIn("- Marta Quill", lantern)
        hand = next(
            text for text in texts if "slug: lend-a-hand" in text or "title: Volunteer" in text
        )
        self.assertIn("draft", hand.split("---")[1])

    def test_drafting_again_keeps_what_was_changed(self) -> None:
        self.change("Volunteer", slug="lend-a-hand")
        self.draft()
        self.assertIn("lend-a-hand", self.table.read_text())
        self.assertEqual(len(rows(self.table)), 71)

    def test_mistakes_are_named_with_their_row(self) -> None:
        text = self.table.read_text()
        for cells, words in (
            ({"kind": "pgae"}, "Did you mean 'page'?"), ({"action": "lave"}, "'leave' or 'move'"), ({"date": "soon"}, "'soon' is not a date"),
            ({"author": "Marta Quil"}, "Did you mean 'Marta Quill'?"), ({"status": "publised"}, "'published'"),
        ):  # fmt: skip
            self.change("Volunteer", **cells)
            line = next(
                n
                for n, one in enumerate(self.table.read_text().splitlines(), 1)
                if "Volunteer" in one
            )
            message = self.refused("move", "m")
            self.assertIn(words, message)
            self.assertIn(f"entries.csv, line {line}", message)
            self.table.write_text(text)
        self.table.write_text(text + "999,leave,post,,,,,,\n")
        self.run_ok("move", "m")
        self.assertIn("unknown-row", (self.folder / "m/follow-ups.csv").read_text())
