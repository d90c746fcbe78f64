"""The draft of a move: what it proposes, what it keeps of a person's changes, and the questions that it asks."""

import os
import pty
import subprocess
import tomllib
from pathlib import Path

from newburrow.core.problem import BurrowError
from newburrow.decide.draft import DraftRequest, draft
from newburrow.decide.questions import OpenQuestion, questions
from newburrow.formats.exports.export import ExportRequest
from newburrow.hosts import loader
from tests.helpers import PROGRAM, SITE, FolderCase, demo_export, item, newburrow, rows, rss

HOSTS = Path(loader.__file__).parent
PROFILE = """
name = "mine"
format = "rss"
[site]
zone = "Europe/Paris"
[kinds.post]
address = "/{slug}/"
[kinds.post.fields.search_description]
[kinds.page]
address = "/p/{slug}/"
takes = ["document"]
[terms]
vocabularies = ["tag", "category"]
[comments]
taken = false
[limits]
entries = 20
total_bytes = 1000
[media]
file_bytes = 100
"""


class Drafting(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("export.zip", demo_export())
        self.write("mine.toml", PROFILE)

    def decisions(self, name: str = "m") -> dict:
        return tomllib.loads((self.folder / name / "move.toml").read_text())

    def test_every_decision_with_its_proposal_and_counts(self) -> None:
        self.run_ok("draft", "export.zip", "--to", "mine.toml", "--out", "m")
        text, found = (self.folder / "m/move.toml").read_text(), self.decisions()
        self.assertEqual(found["dates"]["zone"], "Europe/Paris")
        self.assertEqual(
            (found["kinds"], found["vocabularies"]),
            ({"post": "post", "page": "page"}, {"category": "category", "tag": "tag"}),
        )
        self.assertEqual(
            found["fields"], [{"old": "search-description", "new": "search_description"}]
        )
        for words in ("accepts 20 entries; 71 are to move: the 51 oldest would be left out", "1,000 bytes in all", "are larger",
                      "of the 40 files", "3 search-description", "6 nested of 18 terms", "This host accepts none"):  # fmt: skip
            self.assertIn(words, text)
        self.run_ok("move", "m", "--rehearse", status=1)

    def test_again_keeps_what_was_changed_and_adds_what_is_new(self) -> None:
        self.write("feed.xml", rss(item("T", SITE + "t/")))
        self.run_ok("draft", "feed.xml", "--to", "plainleaf", "--out", "m")
        path = self.folder / "m/move.toml"
        path.write_text(
            path.read_text().replace('files = "content"', 'files = "shown"  # mine')
        )
        own = '<rp:sort xmlns:rp="https://reedpost.example/ns/archive/2">sheet</rp:sort>'
        space = 'xmlns:rp="https://reedpost.example/ns/archive/2"'
        self.write(
            "feed.xml",
            rss(item("T", SITE + "t/"), item("P", SITE + "p/", "x", own), attributes=space),
        )
        self.run_ok("draft", "feed.xml", "--to", "plainleaf", "--out", "m")
        self.assertEqual(self.decisions()["choose"]["kinds"], ["post", "page"])
        self.assertIn('files = "shown"  # mine', path.read_text())
        before = path.read_bytes()
        self.run_ok("draft", "feed.xml", "--to", "plainleaf", "--out", "m")
        self.assertEqual(path.read_bytes(), before)

    def test_two_authors_who_may_be_one(self) -> None:
        people = "".join(
            item(f"T{n}", f"{SITE}{n}/", "x", f"<dc:creator>{name}</dc:creator>")
            for n, name in enumerate(("Nell Birch", "Nell Birch", "Birch, Nell"))
        )
        self.write(
            "feed.xml", rss(people, attributes='xmlns:dc="http://purl.org/dc/elements/1.1/"')
        )
        self.run_ok("draft", "feed.xml", "--to", "plainleaf", "--out", "m")
        table = {row["name"]: row for row in rows(self.folder / "m/authors.csv")}
        self.assertEqual(
            (table["Birch, Nell"]["action"], table["Birch, Nell"]["new_name"]),
            ("assign", "Nell Birch"),
        )
        self.assertIn("the same name", table["Birch, Nell"]["why"])

    def test_answers_stand_in_the_decisions(self) -> None:
        asked: list[OpenQuestion] = []
        given = {
            "address": "https://new.example/",
            "servers": "nginx",
            "files": "shown",
            "without_place": "closing-section",
        }

        def ask(question: OpenQuestion) -> str:
            asked.append(question)
            return given.get(question.key[1], "")

        draft(
            DraftRequest(
                ExportRequest([self.folder / "export.zip"]), str(self.folder / "mine.toml")
            ),
            self.folder / "m",
            ask=ask,
        )
        found = self.decisions()
        self.assertEqual(found["new"]["address"], "https://new.example/")
        self.assertEqual(
            (found["media"]["files"], found["comments"]["without_place"]),
            ("shown", "closing-section"),
        )
        self.assertEqual(found["redirects"]["servers"], ["nginx"])
        self.assertIn(("choose", "preset_content"), [one.key for one in asked])
        self.run_ok("move", "m", "--rehearse", status=1)

    def test_what_is_no_answer(self) -> None:
        for question, answer in (
            (OpenQuestion(("a", "b"), "?", "x", ("x", "yes")), "yess"), (OpenQuestion(("new", "address"), "?", "x"), "nowhere"),
            (OpenQuestion(("a", "b"), "?", "x", ("x", "y"), True), "x, z"),
        ):  # fmt: skip
            with self.assertRaises(BurrowError):
                question.value(answer)
        self.assertEqual(
            OpenQuestion(("a", "b"), "?", "x, y", ("x", "y"), True).value(""), ["x", "y"]
        )
        facts = {
            "host": None,
            "address": "a",
            "holds": [],
            "presets": "none found",
            "servers": ["nginx"],
        }
        self.assertEqual(next(questions(facts)).key, ("new", "address"))

    def test_asked_on_a_terminal_alone(self) -> None:
        done = newburrow(
            "draft",
            "export.zip",
            "--to",
            "mine.toml",
            "--out",
            "m",
            "--ask",
            folder=self.folder,
        )
        self.assertEqual(done.returncode, 2)
        self.assertIn("--ask needs a terminal", done.stderr)
        ours, theirs = pty.openpty()
        words = [PROGRAM, "draft", "export.zip", "--to", "mine.toml", "--out", "m", "--ask"]
        with subprocess.Popen(
            words, cwd=self.folder, stdin=theirs, stdout=subprocess.PIPE, stderr=subprocess.PIPE
        ) as process:
            os.write(ours, b"nowhere\nhttps://new.example/\n" + b"\n" * 20)
            _out, error = process.communicate(timeout=100)
        os.close(ours)
        os.close(theirs)
        self.assertEqual(process.returncode, 0, error)
        self.assertIn(b"'nowhere' is not a web address.", error)
        self.assertEqual(self.decisions()["new"]["address"], "https://new.example/")

    def test_wrong_decisions_are_refused_at_their_line(self) -> None:
        self.run_ok("draft", "export.zip", "--to", "mine.toml", "--out", "m")
        path = self.folder / "m/move.toml"
        right = path.read_text()
        for old, new, words in (
            ('page = "page"', 'page = "pages"', "Did you mean 'page'"), ("shift_hours = 0.0", "shift_hours = 9e9", "more than a century"),
            ('zone = "Europe/Paris"', 'zone = "Europe/Pariss"', "Did you mean 'Europe/Paris'"),
            ('tag = "tag"', 'tag = "tags"', "Did you mean 'tag'"), ('old = "search-description"', 'old = "entry.titel"', "Did you mean 'entry.title'"),
            ('new = "search_description"', 'type = "integer"\ndefault = "x"', "not of the type integer"),
            ('files = "content"', 'files = "some"', "some"), ('pingbacks = "keep"', 'pingback = "keep"', "Did you mean 'pingbacks'"),
        ):  # fmt: skip
            self.assertIn(old, right)
            path.write_text(right.replace(old, new, 1))
            message = self.refused("move", "m")
            self.assertIn(words, message)
            self.assertIn("move.toml, line ", message)


class Parts(FolderCase):
    def test_every_format_keeps_its_files_under_the_limit(self) -> None:
        self.write(
            "feed.xml",
            rss(
                *(item(f"T{n}", f"{SITE}{n}/", "x" * 700) for n in range(12)),
                item("Big", SITE + "big/", "y" * 9000),
            ),
        )
        for host in ("lanternlog", "reedpost", "jsonfeed", "quarrydesk", "plainleaf"):
            text = (HOSTS / f"{host}.toml").read_text()
            text = text.replace("file_bytes = 2_000_000\n", "").replace("[limits]\n", "")
            text = text.replace(
                'templates = "quarrydesk"', f'templates = "{HOSTS / "quarrydesk"}"'
            ).replace("entries = 4000\n", "")
            self.write("h.toml", text + "\n[limits]\nfile_bytes = 4000\n")
            self.run_ok("move", "feed.xml", "--to", "h.toml", "--out", host, status=1)
            sizes = [
                path.stat().st_size
                for path in (self.folder / host / "new").rglob("*")
                if path.is_file()
            ]
            self.assertEqual([size for size in sizes if size > 4000], [], host)
            failed = [
                (row["title"], row["fate"])
                for row in rows(self.folder / host / "ledger.csv")
                if row["kind"] == "post" and row["fate"] != "moved"
            ]
            self.assertEqual(failed, [("Big", "failed")], host)
            said = rows(self.folder / host / "follow-ups.csv")
            self.assertTrue(
                any(row["kind"] == "not-written" and row["title"] == "Big" for row in said),
                host,
            )
            self.assertEqual(self.survey(f"{host}/new")["counts"]["post"], 12, host)

    def test_what_cannot_be_parted_is_refused(self) -> None:
        self.write(
            "h.toml",
            'name = "h"\nformat = "bag"\n[kinds.post]\naddress = "/{slug}"\n[limits]\nfile_bytes = 9\n',
        )
        self.write("feed.xml", rss(item("T", SITE)))
        self.assertIn(
            "cannot be split", self.refused("move", "feed.xml", "--to", "h.toml", "--out", "m")
        )
