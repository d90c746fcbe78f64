"""What is done with a finished move: its marks are kept, one item is told, a few are tried, the result is verified."""

import csv
import json
import shutil
import tempfile
import unittest
from pathlib import Path

from tests.helpers import SITE, FolderCase, demo_export, item, newburrow, rows, rss


class OfTheDemo(FolderCase):
    """Each test has a copy of one finished move."""

    _made: tempfile.TemporaryDirectory[str] | None = None

    def setUp(self) -> None:
        super().setUp()
        if OfTheDemo._made is None:
            OfTheDemo._made = tempfile.TemporaryDirectory()
            folder = Path(OfTheDemo._made.name)
            (folder / "export.zip").write_bytes(demo_export())
            done = newburrow(
                "move", "export.zip", "--to", "lanternlog", "--out", "m", folder=folder
            )
            self.assertEqual(done.returncode, 0, done.stderr)
        shutil.copytree(OfTheDemo._made.name, self.folder, dirs_exist_ok=True)
        self.move = self.folder / "m"

    def mark(self, name: str, delimiter: str = ",", **marks: dict[str, str]) -> None:
        """Write into rows of a table, as a spreadsheet does; rows are found by the value of their key."""
        path = self.move / name
        table = rows(path)
        for row in table:
            row.update(marks.get(row.get("step", row.get("kind", "")), {}))
        with path.open("w", encoding="utf-8-sig", newline="") as stream:
            writer = csv.DictWriter(stream, table[0].keys(), delimiter=delimiter)
            writer.writeheader()
            writer.writerows(table)

    def all_bytes(self) -> dict[Path, bytes]:
        return {path: path.read_bytes() for path in self.move.rglob("*") if path.is_file()}


class Marks(OfTheDemo):
    def test_follow_ups_that_are_done_or_accepted_empty_the_list(self) -> None:
        before = json.loads(self.run_ok("move", "m", "--json"))
        self.mark(
            "follow-ups.csv",
            ";",
            form={"done": "2027-01-04"},
            embed={"accepted": "x", "note": "says Ben"},
        )
        after = json.loads(self.run_ok("move", "m", "--json"))
        self.assertEqual(after["settled"], {"done": 1, "accepted": 1})
        self.assertEqual(after["follow_ups"]["warning"], before["follow_ups"]["warning"] - 2)
        table = {row["kind"]: row for row in rows(self.move / "follow-ups.csv")}
        self.assertEqual(table["form"]["done"], "2027-01-04")
        self.assertEqual(
            (table["embed"]["accepted"], table["embed"]["note"]), ("x", "says Ben")
        )
        self.assertIn("1 done, 1 accepted", self.run_ok("move", "m"))
        first = self.all_bytes()
        self.run_ok("move", "m")
        self.assertEqual(self.all_bytes(), first)

    def test_what_was_done_for_fewer_places_is_to_be_done_again(self) -> None:
        path = self.move / "follow-ups.csv"
        many = next(row for row in rows(path) if int(row["places"]) > 1)
        text = path.read_text("utf-8")
        old = f",{many['places']},{many['key']},,,"
        self.assertIn(old, text)
        path.write_text(text.replace(old, f",{many['places']},{many['key']},yes,,"), "utf-8")
        self.assertIn("1 done", self.run_ok("move", "m"))
        path.write_text(text.replace(old, f",1,{many['key']},yes,,"), "utf-8")
        self.assertNotIn("1 done", self.run_ok("move", "m"))

    def test_a_table_that_cannot_be_read_stops_the_move_before_anything_is_lost(self) -> None:
        path = self.move / "follow-ups.csv"
        path.write_bytes(path.read_bytes() + "dead-link,warning,Schäfer".encode("latin-1"))
        before = path.read_bytes()
        self.assertIn("neither in UTF-8 nor in UTF-16", self.refused("move", "m"))
        self.assertEqual(path.read_bytes(), before)

    def test_the_steps_of_the_cut_over(self) -> None:
        steps = rows(self.move / "cut-over.csv")
        names = [row["step"] for row in steps]
        for earlier, later in (("zone", "try"), ("freeze", "last-export"), ("last-export", "catch-up"), ("verify", "import-1"),
                               ("import-1", "redirects-nginx"), ("redirects-nginx", "follow"), ("watch", "close")):  # fmt: skip
            self.assertLess(names.index(earlier), names.index(later))
        self.assertEqual(steps[names.index("freeze")]["when"], "1 day before")
        self.mark("cut-over.csv", zone={"done": "yes", "note": "by Marta"})
        toml = self.move / "move.toml"
        toml.write_text(
            toml.read_text("utf-8").replace("# day = 2027-03-01", "day = 2027-03-01"), "utf-8"
        )
        self.run_ok("move", "m")
        steps = rows(self.move / "cut-over.csv")
        self.assertEqual(
            (steps[0]["when"], steps[0]["done"], steps[0]["note"]),
            ("2027-02-15", "yes", "by Marta"),
        )
        self.assertIn("Done: yes", (self.move / "report.html").read_text("utf-8"))


class OneItem(OfTheDemo):
    def test_the_story_of_an_item(self) -> None:
        told = self.run_ok("show", "m", "how-to-graft")
        for words in ("moved", "leaves/2022/how-to-graft", "Grafting (topic)", "301 https://mistlebank.example/?entry=59",
                      "OLD", "NEW", "Cut the scion to match."):  # fmt: skip
            self.assertIn(words, told)
        left = json.loads(self.run_ok("show", "m", "gate-for-sale", "--json"))
        self.assertEqual(left["fates"][0]["fate"], "left-out")
        self.assertIsNone(left["new"])

    def test_the_page_runs_and_loads_nothing(self) -> None:
        evil = '<p onclick="x()">words</p><script>alert(1)</script><img src="https://spy.example/a.png" alt="An owl">'
        self.write("feed.xml", rss(item("Evil", SITE + "evil", evil)))
        self.run_ok("move", "feed.xml", "--to", "plainleaf", "--out", "e")
        self.run_ok("show", "e", "Evil", "--html", "evil.html")
        page = (self.folder / "evil.html").read_text("utf-8")
        self.assertEqual(page.count("<script"), 0)
        self.assertEqual(page.count('sandbox=""'), 2)
        for words in (
            "alert(1)",
            "onclick=",
            "https://spy.example/a.png&#34;",
            "src=&#34;https",
        ):
            self.assertNotIn(words, page)
        self.assertIn("An owl", page)

    def test_options_that_do_nothing_are_refused(self) -> None:
        self.assertIn(
            "Name a move folder", self.refused("show", "export.zip", "47", "--html", "x.html")
        )
        self.assertIn("itself", self.refused("show", "m", "47", "--site", SITE))
        self.assertIn(
            "one move folder",
            self.refused("move", "export.zip", "--to", "bag", "--out", "x", "--only", "47"),
        )

    def test_a_few_items_are_tried_and_the_rest_stays(self) -> None:
        before = self.all_bytes()
        told = self.run_ok("move", "m", "--only", "how-to-graft", "--only", "47")
        self.assertIn("https://mistlebank.example/leaves/2022/how-to-graft", told)
        after = self.all_bytes()
        self.assertEqual({path: after[path] for path in before}, before)
        found = self.survey("m/try/new")
        self.assertEqual((found["counts"]["post"], found["counts"]["media"]), (2, 2))
        self.run_ok("move", "m", "--only", "47")
        self.assertEqual(self.survey("m/try/new")["counts"]["post"], 1)
        self.assertIn("No item has", self.refused("move", "m", "--only", "nothing-such"))
        self.run_ok("move", "m", "--only", "gate-for-sale", status=1)


class Verifying(OfTheDemo):
    def verified(self, status: int) -> dict:  # type: ignore[type-arg]
        return json.loads(self.run_ok("verify", "m", "--json", status=status))  # type: ignore[no-any-return]

    def unexplained(self) -> dict[str, int]:
        rows = self.verified(1)["unexplained"]
        return {row["fact"]: row["count"] for row in rows}

    def test_half_of_the_result_is_gone(self) -> None:
        for path in sorted((self.move / "new/media").iterdir())[::2]:
            path.unlink()
        self.assertEqual(self.unexplained(), {"media: missing": 20})
        (self.move / "new/lanternlog-import.atom").unlink()
        told = self.run_ok("verify", "m", status=1)
        self.assertIn("result new/: reading", told)

    def test_the_report_has_what_was_measured(self) -> None:
        report = self.move / "report.html"
        before = report.read_text("utf-8")
        self.assertIn("Not measured yet", before)
        self.verified(0)
        after = report.read_text("utf-8")
        self.assertIn("of what the old texts held is in the result", after)
        self.assertRegex(after, r"Volunteer</a></th><td>\d\d\.\d\d%</td>")
        self.verified(0)
        self.assertEqual(report.read_text("utf-8"), after)
        self.assertIn(
            '"why": "60.0% of its text is there"',
            after.partition("<!-- samples begin -->")[2][:300],
        )
        ends = [page.partition("<!-- samples end -->")[2] for page in (before, after)]
        self.assertEqual(ends[0], ends[1])

    def test_the_files_of_another_move(self) -> None:
        self.write("feed.xml", rss(item("Other", SITE + "other")))
        self.run_ok("move", "feed.xml", "--to", "lanternlog", "--out", "o")
        (self.move / "new/lanternlog-import.atom").write_bytes(
            (self.folder / "o/new/lanternlog-import.atom").read_bytes()
        )
        found = self.unexplained()
        self.assertEqual((found["entry: missing"], found["entry: added"]), (68, 1))

    def test_a_ledger_that_a_spreadsheet_saved_is_the_same(self) -> None:
        self.mark("ledger.csv", ";")
        self.assertTrue(self.verified(0)["verified"])
        text = (self.move / "ledger.csv").read_text("utf-8-sig")
        (self.move / "ledger.csv").write_text(text.replace("left-out", "moved", 1), "utf-8")
        self.assertEqual(sum(self.unexplained().values()), 1)

    def test_a_folder_without_a_finished_move(self) -> None:
        for path in self.move.glob(".journal*"):
            path.unlink()
        self.assertIn("journal is missing", self.refused("verify", "m"))
        self.run_ok("draft", "export.zip", "--to", "bag", "--out", "d")
        self.assertIn("newburrow move", self.refused("verify", "d"))
        self.run_ok("move", "m")
        (self.move / ".journal.sqlite-outcome").write_bytes(b"SQLite format 3\0 and more")
        self.assertIn("damaged", self.refused("verify", "m"))

    def test_tables_of_an_earlier_check_go_with_the_next_move(self) -> None:
        self.run_ok("verify", "m")
        figures = {row["fidelity"] for row in rows(self.move / "fidelity.csv")}
        self.assertIn("100.00%", figures)
        self.assertTrue(all(row["explained_by"] for row in rows(self.move / "differences.csv")))
        self.run_ok("move", "m")
        self.assertFalse((self.move / "fidelity.csv").exists())


class Log(OfTheDemo):
    def test_it_says_what_happened_to_a_post(self) -> None:
        self.run_ok("--log", "log.jsonl", "--log-level", "debug", "move", "m")
        lines = [
            json.loads(line)
            for line in (self.folder / "log.jsonl").read_text("utf-8").splitlines()
        ]
        fates = [
            line
            for line in lines
            if line["message"] == "fate"
            and line.get("key") == "59"
            and line["object"] == "entry"
        ]
        self.assertEqual(
            [(line["fate"], line["new"]) for line in fates],
            [("moved", "https://mistlebank.example/leaves/2022/how-to-graft")],
        )
        self.assertTrue(
            any(
                line["message"] == "decided" and line["setting"] == "new.host" for line in lines
            )
        )
        self.assertTrue(
            any(line["message"] == "writes" and line["file"] == "ledger.csv" for line in lines)
        )
        self.assertIn('"key": "59"', self.run_ok("show", "m", "59", "--from-log", "log.jsonl"))
        self.run_ok("--log", "log.txt", "move", "m")
        text = (self.folder / "log.txt").read_text("utf-8")
        self.assertIn("decided: setting='new.host' value='lanternlog'", text)
        self.assertNotIn("fate: ", text)

    def test_a_log_that_cannot_be_written(self) -> None:
        self.assertIn(
            "The log 'no/log.txt' cannot be written",
            self.refused("--log", "no/log.txt", "survey", "export.zip"),
        )


def tearDownModule() -> None:
    if OfTheDemo._made is not None:
        OfTheDemo._made.cleanup()


if __name__ == "__main__":
    unittest.main()
