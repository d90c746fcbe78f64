"""Whole moves of the demo site, by the built program."""

import json
import os
import sqlite3
import subprocess
from pathlib import Path

from lxml import etree

from tests.helpers import (
    SITE,
    FolderCase,
    demo_export,
    item,
    newburrow,
    rows,
    rss,
    same,
    zipped,
)

NS = {"a": "http://www.w3.org/2005/Atom", "thr": "http://purl.org/syndication/thread/1.0",
      "x": "https://lanternlog.example/ns/import/1", "app": "http://www.w3.org/2007/app"}  # fmt: skip


class OfTheDemo(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("export.zip", demo_export())

    def move(self) -> Path:
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "m")
        return self.folder / "m"

    def test_a_finished_move_folder(self) -> None:
        found = {path.name for path in self.move().iterdir()}
        self.assertEqual(found, {"move.toml", "authors.csv", "terms.csv", "content.sqlite", "new", "redirects", "ledger.csv", "walk.csv",
                                 "follow-ups.csv", "follow-up-places.csv", "cut-over.csv", "report.html", ".written",
                                 ".journal.sqlite", ".journal.sqlite-outcome"})  # fmt: skip

    def test_everything_has_a_fate(self) -> None:
        printed = json.loads(
            self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "m", "--json")
        )
        ledger = rows(self.folder / "m/ledger.csv")
        for kind, account in printed["counts"].items():
            fates = [row["fate"] for row in ledger if row["kind"] == kind]
            self.assertEqual(
                account["found"],
                sum(value for name, value in account.items() if name != "found"),
                kind,
            )
            for fate in ("moved", "merged", "left-out", "failed"):
                self.assertEqual(account[fate], fates.count(fate), (kind, fate))
        self.assertEqual({row["reason"] for row in ledger if row["fate"] == "moved"}, {""})
        self.assertNotIn("", {row["reason"] for row in ledger if row["fate"] != "moved"})
        self.assertEqual(
            set(printed),
            {
                "form",
                "version",
                "counts",
                "files",
                "redirects",
                "follow_ups",
                "settled",
                "walk",
                "out",
            },
        )
        # What a parser of its own counts in the export is what was found.
        from zipfile import ZipFile

        tree = etree.fromstring(
            ZipFile(self.folder / "export.zip").read("export/mistlebank.xml")
        )
        space = {"r": "https://reedpost.example/ns/archive/2"}
        counted = {
            kind: printed["counts"][kind]["found"]
            for kind in ("post", "page", "media", "author", "tag", "category")
        }
        self.assertEqual(
            counted,
            {
                "post": len(tree.xpath("//item[r:sort='article']", namespaces=space)),
                "page": len(tree.xpath("//item[r:sort='sheet']", namespaces=space)),
                "media": len(tree.xpath("//item[r:sort='file']", namespaces=space)),
                "author": len(tree.xpath("//r:writer", namespaces=space)),
                "tag": len(tree.xpath("//r:topic[@shelf='mark']", namespaces=space)),
                "category": len(tree.xpath("//r:topic[@shelf='topic']", namespaces=space)),
            },
        )
        comments = sum(printed["counts"][kind]["found"] for kind in ("comment", "pingback"))
        self.assertEqual(comments, len(tree.xpath("//r:reply", namespaces=space)))

    def test_the_feed_holds_what_the_ledger_says(self) -> None:
        folder = self.move()
        feed = etree.parse(folder / "new/lanternlog-import.atom").getroot()
        moved = [row for row in rows(folder / "ledger.csv") if row["fate"] == "moved"]
        for kind in ("post", "page", "comment", "pingback", "media"):
            found = feed.xpath(f"a:entry[x:kind='{kind}']", namespaces=NS)
            self.assertEqual(
                len(found), len([row for row in moved if row["kind"] == kind]), kind
            )
        ids = feed.xpath("a:entry/a:id/text()", namespaces=NS)
        self.assertEqual(len(ids), len(set(ids)))
        self.assertLessEqual(
            set(feed.xpath("a:entry/thr:in-reply-to/@ref", namespaces=NS)), set(ids)
        )
        for source in feed.xpath("a:entry/a:content/@src", namespaces=NS):
            self.assertTrue((folder / "new" / source).is_file(), source)
        body = feed.xpath(
            "a:entry[a:title='Forty scions & a fridge']/a:content", namespaces=NS
        )[0].text
        self.assertIn(
            '<a href="https://mistlebank.example/leaves/2022/how-to-graft?view=print#labels">',
            body,
        )
        states = feed.xpath("a:entry[app:control]/a:title/text()", namespaces=NS)
        for title in (
            "Wassail plans (not yet agreed)",
            "Spring programme",
            "Rota for key holders",
        ):
            self.assertIn(title, states)
        self.assertNotIn(
            "/files/",
            feed.xpath("string(a:entry[a:title='Open day']/a:content)", namespaces=NS),
        )

    def test_what_was_written_is_read_again(self) -> None:
        self.move()
        found, before = self.survey("m/new"), self.survey("export.zip")
        self.assertEqual(found["sources"], [{"path": "m/new", "format": "atom", "dialect": "lanternlog", "parts": 1,
                                             "encoding": "utf-8", "generator": "New Burrow", "written": "2026-10-26T19:15:00Z", "newest": False}])  # fmt: skip
        ledger = [
            row["kind"] for row in rows(self.folder / "m/ledger.csv") if row["fate"] == "moved"
        ]
        for kind in ("post", "page", "comment", "pingback", "media"):
            self.assertEqual(found["counts"][kind], ledger.count(kind), kind)
        self.assertEqual(
            found["counts"]["topic"], ledger.count("tag") + ledger.count("category")
        )
        self.assertEqual(
            [author["name"] for author in found["authors"]],
            [author["name"] for author in before["authors"]],
        )
        for word in ("leaves/2022/how-to-graft", "leaves/2024/letter-from-afar"):
            old = json.loads(
                self.run_ok("show", "export.zip", word.rpartition("/")[2], "--json")
            )
            new = json.loads(self.run_ok("show", "m/new", word, "--json"))
            for name in ("title", "published", "fields", "language", "guid"):
                self.assertEqual(new["record"].get(name), old["record"].get(name), (word, name))
            self.assertEqual([(c["author_name"], c.get("published")) for c in new["comments"]],
                             [(c["author_name"], c.get("published")) for c in old["comments"] if c.get("status") != "spam"])  # fmt: skip

    def test_faults_of_the_demo_are_follow_ups_and_nothing_else_is(self) -> None:
        found = rows(self.move() / "follow-ups.csv")
        bad = sorted((row["kind"], row["title"]) for row in found if row["severity"] != "note")
        self.assertEqual(
            bad,
            [
                ("dead-link", "A camera in the owl box"), ("dead-link", "Visit us"), ("embed", "A camera in the owl box"),
                ("form", "Volunteer"), ("macro", "Forty scions & a fridge"),
                ("menu", ""), ("menu", ""), ("missing-picture", "The press: a manual"), ("no-tree", "Tree map and 1 more"),
                ("state-changed", "Rota for key holders"),
            ],
        )  # fmt: skip
        notes = {row["kind"] for row in found if row["severity"] == "note"}
        self.assertLessEqual(
            {
                "script",
                "new-slug",
                "address-taken",
                "unread-element",
                "no-nesting",
                "site-settings",
            },
            notes,
        )

    def test_the_list_of_changed_pages(self) -> None:
        folder = self.move()
        changed = rows(folder / "redirects/changed.csv")
        moved = [
            row
            for row in rows(folder / "ledger.csv")
            if row["fate"] == "moved" and row["kind"] in ("post", "page")
        ]
        known = {(row["old_address"], row["new_address"]) for row in moved}
        self.assertGreater(len(changed), 50)
        self.assertLessEqual({(row["old"], row["new"]) for row in changed}, known)
        self.assertFalse(
            [row for row in changed if row["old"] == row["new"] or "members-rota" in row["old"]]
        )

    def test_two_runs_give_the_same_bytes(self) -> None:
        one = self.move()
        done = newburrow(
            "demo",
            "--out",
            "demo",
            folder=self.folder,
            env={"PYTHONHASHSEED": "7", "TZ": "Asia/Tokyo"},
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        text = (
            (self.folder / "demo/move/move.toml")
            .read_text()
            .replace("mistlebank-export.zip", "export.zip")
        )
        self.assertEqual((one / "move.toml").read_text(), text)
        differing = set(same(one, self.folder / "demo/move"))
        # the name of the export is in all of them
        names = {"move.toml", "content.sqlite", ".journal.sqlite-outcome"}
        self.assertLessEqual(differing, names)
        first = {path: path.read_bytes() for path in one.rglob("*") if path.is_file()}
        self.run_ok("move", "m")
        self.assertEqual(
            {path: path.read_bytes() for path in one.rglob("*") if path.is_file()}, first
        )
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "again")
        self.assertEqual(same(one, self.folder / "again"), [])

    def test_a_killed_run_goes_on(self) -> None:
        one = self.move()
        process = subprocess.Popen([os.fspath(newburrow_program()), "move", "export.zip", "--to", "lanternlog", "--out", "killed"],
                                   cwd=self.folder, stdout=subprocess.DEVNULL)  # fmt: skip
        while not list((self.folder / "killed").glob("new/media/*")) and process.poll() is None:
            pass
        process.kill()
        process.wait()
        self.run_ok("move", "export.zip", "--to", "lanternlog", "--out", "killed")
        self.assertEqual(same(one, self.folder / "killed"), [])

    def test_decisions_are_carried_out(self) -> None:
        self.run_ok("draft", "export.zip", "--to", "lanternlog", "--out", "m")
        move = self.folder / "m/move.toml"
        text = move.read_text()
        text = text.replace('kinds = ["post", "page"]', 'kinds = ["post"]').replace(
            '"leave-out"\n', '"move"\n'
        )
        move.write_text(
            text.replace(
                'address = "https://mistlebank.example/"',
                'address = "https://orchard.example/news/"',
            )
        )
        authors = self.folder / "m/authors.csv"
        authors.write_text(authors.read_text().replace("29,keep,", "29,assign,Tamsin Orrell"))
        terms = self.folder / "m/terms.csv"
        terms.write_text(
            terms.read_text().replace(
                "Owls,wildlife,7,keep,", "Owls,wildlife,7,rename,Barn owls"
            )
        )
        self.run_ok("draft", "export.zip", "--to", "lanternlog", "--out", "m")
        self.assertIn("rename,Barn owls", terms.read_text())
        self.run_ok("move", "m")
        ledger = {
            (row["kind"], row["object"]): row for row in rows(self.folder / "m/ledger.csv")
        }
        self.assertEqual(ledger["page", "8"]["fate"], "left-out")
        self.assertEqual(ledger["post", "2"]["fate"], "moved")
        self.assertEqual(
            ledger["author", "idris"]["reason"],
            "entries are assigned to Tamsin Orrell (authors.csv)",
        )
        self.assertTrue(
            ledger["post", "2"]["new_address"].startswith(
                "https://orchard.example/leaves/2021/"
            )
        )
        feed = (self.folder / "m/new/lanternlog-import.atom").read_text()
        self.assertIn('<category term="Barn owls"/>', feed)
        self.assertNotIn("Idris Fenn", feed)
        # Without the other site's address nothing is unchanged any more.
        self.assertEqual(
            {row["status"] for row in rows(self.folder / "m/redirects/addresses.csv")},
            {"301", "410"},
        )

    def test_a_rehearsal_writes_nothing(self) -> None:
        printed = json.loads(
            self.run_ok("move", "export.zip", "--to", "lanternlog", "--rehearse", "--json")
        )
        self.assertEqual(printed["out"], None)
        self.assertEqual(os.listdir(self.folder), ["export.zip"])
        self.run_ok("draft", "export.zip", "--to", "lanternlog", "--out", "m")
        before = sorted(self.folder.rglob("*"))
        self.assertIn("nothing was written", self.run_ok("move", "m", "--rehearse"))
        self.assertEqual(sorted(self.folder.rglob("*")), before)
        real = json.loads(self.run_ok("move", "m", "--json"))
        self.assertEqual({**real, "out": None}, printed)

    def test_what_an_earlier_run_wrote_and_this_one_does_not_is_taken_away(self) -> None:
        folder = self.move()
        self.write("m/new/mine.txt", "not yours")
        move = folder / "move.toml"
        move.write_text(
            move.read_text().replace('servers = ["apache", "nginx"]', "servers = []")
        )
        self.run_ok("move", "m")
        self.assertFalse((folder / "redirects/nginx/newburrow-maps.conf").exists())
        self.assertEqual((folder / "new/mine.txt").read_text(), "not yours")

    def test_the_store_is_kept_while_the_export_is_the_same(self) -> None:
        folder = self.move()
        with sqlite3.connect(folder / "content.sqlite") as db:
            db.execute("UPDATE record_entry SET data = replace(data, 'Open day', 'Shut day')")
        db.close()
        self.run_ok("move", "m")
        self.assertIn("Shut day", (folder / "ledger.csv").read_text())
        with open(self.folder / "export.zip", "ab") as stream:
            stream.write(b"\0")
        self.run_ok("move", "m")
        self.assertNotIn("Shut day", (folder / "ledger.csv").read_text())


def newburrow_program() -> Path:
    from tests.helpers import PROGRAM

    return PROGRAM


class OfSmallExports(FolderCase):
    def test_a_plain_feed_moves_without_a_dialect(self) -> None:
        self.write(
            "feed.xml",
            rss(
                item(
                    "A",
                    SITE + "a",
                    "<p>x</p>",
                    "<pubDate>Sat, 06 May 2023 08:00:00 +0100</pubDate>",
                )
            ),
        )
        self.run_ok("move", "feed.xml", "--to", "lanternlog", "--out", "m")
        self.assertEqual(
            rows(self.folder / "m/ledger.csv")[1]["new_address"], SITE + "leaves/2023/a"
        )

    def test_a_missing_file_is_a_failure_and_the_status_says_so(self) -> None:
        media = ('<item xmlns:r="https://reedpost.example/ns/archive/2"><title>Bud</title><r:id>9</r:id><r:sort>file</r:sort>'
                 "<r:file>files/bud.png</r:file></item>")  # fmt: skip
        text = rss(
            media,
            item("A", SITE + "a/"),
            attributes='xmlns:r="https://reedpost.example/ns/archive/2"',
        )
        zipped(self.folder / "e.zip", export_xml=text.encode(), spare_png=b"p")
        printed = self.run_ok("move", "e.zip", "--to", "lanternlog", "--out", "m", status=1)
        self.assertIn("Not all could be moved", printed)
        fates = {
            row["title"]: row["fate"]
            for row in rows(self.folder / "m/ledger.csv")
            if row["kind"] == "media"
        }
        self.assertEqual(fates, {"Bud": "failed", "spare_png": "moved"})

    def test_parts_and_several_exports_are_read_as_one(self) -> None:
        zipped(
            self.folder / "e.zip",
            part1_xml=rss(item("A", SITE + "a/")).encode(),
            part2_xml=rss(item("B", SITE + "b/")).encode(),
        )
        self.write("more.xml", rss(item("C", SITE + "c/"), item("A", SITE + "a/")))
        self.run_ok("move", "e.zip", "more.xml", "--to", "lanternlog", "--out", "m")
        fates = [
            (row["title"], row["fate"])
            for row in rows(self.folder / "m/ledger.csv")
            if row["kind"] == "post"
        ]
        self.assertEqual(
            sorted(fates), [("A", "merged"), ("A", "moved"), ("B", "moved"), ("C", "moved")]
        )

    def test_a_host_made_by_a_user(self) -> None:
        self.write("feed.xml", rss(item("A", SITE + "a", "x")))
        self.write(
            "mine.toml", 'name = "mine"\nformat = "atom"\n[kinds.post]\naddress = "/x/{slug}"\n'
        )
        self.run_ok("move", "feed.xml", "--to", "mine.toml", "--out", "m")
        self.assertEqual(rows(self.folder / "m/ledger.csv")[1]["new_address"], SITE + "x/a")
        self.assertTrue((self.folder / "m/new/entries.atom").is_file())
