"""The growers' wiki between all hosts, by the real program: nothing lost, history, links by name, the walk, packing."""

import json
import shutil
import zipfile
from functools import lru_cache
from pathlib import Path
from tempfile import mkdtemp

from newburrow.core import plugins
from newburrow.demo import growers, wiki_exports
from newburrow.hosts.loader import PROFILES
from tests.helpers import FolderCase, rows

WIKI = growers.build()


@lru_cache(maxsize=2)
def export(dialect: str) -> bytes:
    folder = Path(mkdtemp())
    wiki_exports.write(WIKI, dialect, folder / "w.zip")
    data = (folder / "w.zip").read_bytes()
    shutil.rmtree(folder)
    return data


class Wikis(FolderCase):
    def moved(self, dialect: str, host: str) -> dict[str, object]:
        self.write(f"{dialect}.zip", export(dialect))
        return json.loads(
            self.run_ok(
                "move", f"{dialect}.zip", "--to", host, "--out", f"{dialect}-{host}", "--json"
            )
        )  # type: ignore[no-any-return]

    def test_what_is_counted(self) -> None:
        for dialect, more in (
            ("tarnwiki", {"revision": 69, "menu-item": 9}),
            ("sedgewiki", {"menu-item": 5}),
        ):
            self.write("w.zip", export(dialect))
            wanted = {
                "wiki-page": 80,
                "comment": 60,
                "author": 4,
                "tag": 12,
                "media": 30,
                **more,
            }
            self.assertEqual(self.survey("w.zip")["counts"], wanted, dialect)

    def test_to_every_host(self) -> None:
        dialects = list(WIKI.exports)
        for number, host in enumerate(PROFILES.names()):
            dialect = dialects[number % 2]
            with self.subTest(dialect=dialect, host=host):
                outcome = self.moved(dialect, host)
                for kind, account in outcome["counts"].items():  # type: ignore[attr-defined]
                    self.assertEqual(account["failed"], 0, kind)
                    if kind in ("wiki-page", "comment"):
                        self.assertEqual(account["moved"], account["found"], kind)
                walk = outcome["walk"]
                self.assertEqual(walk["before"], walk["after"])  # type: ignore[index]
                self.assertEqual(walk["after"]["reached"], 75)  # type: ignore[index]

    def test_there_and_back(self) -> None:
        """From one wiki to the other and read again: titles, trees, tags, comments and files of pages are the same."""
        self.moved("tarnwiki", "sedgewiki")
        self.moved("sedgewiki", "tarnwiki")
        for folder in ("tarnwiki-sedgewiki", "sedgewiki-tarnwiki"):
            found = self.survey(f"{folder}/new")
            for kind in ("wiki-page", "comment", "tag"):
                self.assertEqual(
                    found["counts"][kind],
                    {"wiki-page": 80, "comment": 60, "tag": 12}[kind],
                    folder,
                )
            self.assertEqual(found["counts"]["media"], 28)  # two have the same bytes as others
            for page in WIKI.pages[::8]:
                if "/" in page.entry.title or page.entry.title.lower() == "grafting wax":
                    continue
                shown = json.loads(
                    self.run_ok("show", f"{folder}/new", page.entry.title, "--json")
                )
                self.assertEqual(
                    sorted(term["name"] for term in shown["terms"]),
                    sorted(page.tags),
                    page.entry.title,
                )
                self.assertEqual(len(shown["comments"]), len(page.comments), page.entry.title)

    def test_history(self) -> None:
        self.moved("tarnwiki", "tarnwiki")
        new = self.folder / "tarnwiki-tarnwiki/new"
        versions = sorted((new / "versions/Pruning").iterdir())
        self.assertEqual(len(versions), 11)
        self.assertIn("number: '1'", versions[0].read_text())
        page = (new / "pages/Pruning.creole").read_text()
        first = next(page for page in WIKI.pages if page.entry.key == "Pruning").history[0]
        self.assertIn(f"date: '{first.published.isoformat()}'", page)  # type: ignore[union-attr]
        self.moved("tarnwiki", "plainleaf")
        ledger = [
            row
            for row in rows(self.folder / "tarnwiki-plainleaf/ledger.csv")
            if row["kind"] == "revision"
        ]
        self.assertEqual(len(ledger), 69)
        self.assertIn(
            "(11 earlier versions of this page)",
            {row["title"]: row["reason"] for row in ledger}["Pruning, version 3"],
        )

    def test_links_by_name(self) -> None:
        self.moved("tarnwiki", "tarnwiki")
        home = (self.folder / "tarnwiki-tarnwiki/new/pages/Home.creole").read_text()
        self.assertIn("[[Orchard map]]", home)
        self.assertIn("[[Medlars]]", home)  # a page that nobody has written
        boxes = (self.folder / "tarnwiki-tarnwiki/new/pages/Bee boxes.creole").read_text()
        self.assertIn("[[Bee boxes|old links]]", boxes)  # the name it had before
        self.moved("tarnwiki", "plainleaf")
        texts = {
            path.stem: path.read_text()
            for path in (self.folder / "tarnwiki-plainleaf/new/texts").rglob("*.md")
        }
        self.assertIn("Nobody has written about Medlars yet.", texts["Home"])
        self.assertIn(
            "* Clean it.", texts["Pruning"].replace("- Clean", "* Clean")
        )  # an included page
        red = [
            row
            for row in rows(self.folder / "tarnwiki-plainleaf/follow-ups.csv")
            if row["kind"] == "red-link"
        ]
        self.assertEqual(len(red), 6)

    def test_pages_flat_and_in_trees(self) -> None:
        self.moved("sedgewiki", "sedgewiki")
        with zipfile.ZipFile(
            self.folder / "sedgewiki-sedgewiki/new/sedgewiki-import.zip"
        ) as archive:
            names = archive.namelist()
        self.assertIn("w/Apples/Bank-Russet.html", names)
        self.assertIn("files/Apples/Bank-Russet/russet.png", names)
        self.assertEqual(
            names.index("files/Apples/Bank-Russet/russet.png"),
            names.index("w/Apples/Bank-Russet.html") + 1,
        )
        self.write("s.zip", export("sedgewiki"))
        self.run_ok("draft", "s.zip", "--to", "lanternlog", "--out", "flat")
        toml = (self.folder / "flat/move.toml").read_text()
        for how, title, slug in (
            ("slug", "Bank Russet", "apples-bank-russet"),
            ("title", "Apples / Bank Russet", "bank-russet"),
        ):
            self.write("flat/move.toml", toml.replace('flat = "drop"', f'flat = "{how}"'))
            self.run_ok("move", "flat")
            feed = (self.folder / "flat/new/lanternlog-import.atom").read_text()
            self.assertIn(f"<title>{title}</title>", feed)
            self.assertIn(f'/about/{slug}"', feed)

    def test_parts_below_the_limit(self) -> None:
        profile = self.run_ok("hosts", "sedgewiki").replace(
            "upload_bytes = 250_000_000", "upload_bytes = 40_000"
        )
        self.write("small.toml", profile)
        shutil.copytree(
            PROFILES.path_of("sedgewiki").parent / "sedgewiki", self.folder / "sedgewiki"
        )
        self.write("w.zip", export("sedgewiki"))
        self.run_ok("draft", "w.zip", "--to", "small.toml", "--out", "m")
        self.assertIn(
            "accepts uploads of 40,000 bytes", (self.folder / "m/move.toml").read_text()
        )
        self.run_ok("move", "m")
        parts = sorted((self.folder / "m/new").iterdir())
        self.assertGreater(len(parts), 2)
        for part in parts:
            self.assertLessEqual(part.stat().st_size, 40_000, part.name)
        self.assertEqual(self.survey("m/new")["counts"]["wiki-page"], 80)
        again = [part.read_bytes() for part in parts]
        self.run_ok("move", "m")
        self.assertEqual([part.read_bytes() for part in parts], again)

    def test_tags_that_come_later(self) -> None:
        self.write("w.zip", export("tarnwiki"))
        self.run_ok("move", "w.zip", "--to", "plainleaf", "--out", "m")
        self.write("more/facts/tagged.jsonl", '{"page": "June", "tags": ["thinning"]}\n')
        toml = (self.folder / "m/move.toml").read_text()
        self.write("m/move.toml", toml.replace('paths = ["../w.zip"]', 'paths = ["../w.zip", "../more"]')
                   .replace('dialect = ""', 'dialect = "tarnwiki"'))  # fmt: skip
        outcome = json.loads(self.run_ok("move", "m", "--json"))
        self.assertEqual(outcome["counts"]["wiki-page"]["found"], 80)
        self.assertIn(
            "thinning", next((self.folder / "m/new/texts").rglob("June.md")).read_text()
        )


class Demo(FolderCase):
    def test_the_command(self) -> None:
        said = self.run_ok("demo", "--site", "wiki", "--out", "d")
        self.assertIn("Mistle Bank Growers: from tarnwiki to sedgewiki", said)
        self.assertTrue((self.folder / "d/growers-sedgewiki.zip").is_file())
        self.assertIn("The walk", (self.folder / "d/move/report.html").read_text())


class Markups(FolderCase):
    def test_creole_by_name_there_and_back(self) -> None:
        creole = plugins.get(plugins.MARKUPS, "creole")
        made = creole.from_html(
            '<p><a href="/p/C%23#x">sharp</a> <a href="/q">q</a></p>',
            lambda address: "C#" if address == "/p/C%23" else "",
        )
        self.assertEqual(made, "[[C##x|sharp]] [[/q|q]]\n")
