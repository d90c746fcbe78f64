"""Parts and files in any order and depth, a dialect for each export, and files that are no content."""

import io
import tarfile
import zipfile

from tests.helpers import SITE, FolderCase, item, rows, rss

BODY = '<img src="/files/bud.png"><img src="https://mistlebank.example/files/2020/leaf.png">'
POSTS = rss(item("One", SITE + "1/", BODY)).encode()
FILES = {"files/bud.png": b"bud", "files/2020/leaf.png": b"leaf"}
SOFTWARE = {
    "theme/style.css": b"a{}",
    "site.db": b"x",
    "settings.json": b"{}",
    ".env": b"PASSWORD=x",
    "old.zip": b"PK",
}
MINE = """name = "{name}"
format = "rss"
[namespaces]
o = "{uri}"
[entry]
kind = "o:sort"
[values.kind]
word = "{kind}"
"""


def zip_of(files: dict[str, bytes]) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return stream.getvalue()


def tar_of(files: dict[str, bytes], mode: str = "w") -> bytes:
    stream = io.BytesIO()
    with tarfile.open(fileobj=stream, mode=mode) as archive:  # type: ignore[call-overload]
        for name, data in files.items():
            info = tarfile.TarInfo(name)
            info.size = len(data)
            archive.addfile(info, io.BytesIO(data))
    return stream.getvalue()


class Parts(FolderCase):
    def moved(self, *words: object) -> list[str]:
        """The names of the files that are shown on the new host, as its text has them."""
        out = self.folder / f"out-{len(list(self.folder.iterdir()))}"
        self.run_ok("move", *words, "--to", "plainleaf", "--out", out)
        self.out = out
        (text,) = (out / "new/texts").rglob("*.md")
        files = sorted(path.name.partition("-")[0] for path in (out / "new/files").iterdir())
        for name in ("bud", "leaf"):
            self.assertIn(f"/files/{name}-", text.read_text())
        return files

    def test_any_order_and_depth(self) -> None:
        self.write("posts.xml", POSTS)
        self.write("media.tar", tar_of(FILES))
        self.write("media.tgz", tar_of(FILES, "w:gz"))
        self.write("media.zip", zip_of(FILES))
        nested = {"posts.xml": POSTS, "media.zip": zip_of(FILES)}
        self.write("export.zip", zip_of(nested))
        self.write("deep.zip", zip_of({"download/export.zip": zip_of(nested)}))
        for name, data in {"posts.xml": POSTS, "media.tgz": tar_of(FILES, "w:gz")}.items():
            self.write(f"folder/{name}", data)
        for words in (
            ("posts.xml", "media.tar"),
            ("media.tgz", "posts.xml"),
            ("media.zip", "posts.xml"),
            ("export.zip",),
            ("deep.zip",),
            ("folder",),
        ):
            self.assertEqual(self.moved(*words), ["bud", "leaf"], words)

    def test_an_archive_of_other_files_stays_one(self) -> None:
        theme = zip_of({"style.css": b"a{}", "index.php": b"<?php", "logo.png": b"x"})
        self.write(
            "export.zip",
            zip_of(
                {"posts.xml": POSTS, "theme.zip": theme, "up/pics.zip": zip_of(FILES), **FILES}
            ),
        )
        self.assertEqual(self.moved("export.zip"), ["bud", "leaf"])
        left = {
            row["title"] for row in rows(self.out / "ledger.csv") if row["fate"] == "left-out"
        }
        self.assertEqual(left, {"theme.zip", "pics.zip"})

    def test_what_cannot_be_opened_is_a_file_like_any_other(self) -> None:
        svg = b'<!DOCTYPE svg [<!ENTITY a "b">]><svg>&a;</svg>'
        broken = zip_of({"a.png": b"x" * 5000})[:-30]
        self.write(
            "export.zip",
            zip_of({"posts.xml": POSTS, "logo.svg": svg, "broken.zip": broken, **FILES}),
        )
        self.moved("export.zip")
        self.assertIn(svg, [path.read_bytes() for path in (self.out / "new/files").iterdir()])
        found = [
            row for row in rows(self.out / "follow-ups.csv") if row["kind"] == "file-unopened"
        ]
        self.assertEqual(len(found), 2)
        self.assertTrue(any("broken.zip" in row["what"] for row in found))


class Software(FolderCase):
    def test_settings_themes_and_databases_are_not_published(self) -> None:
        linked = rss(item("One", SITE + "1/", '<a href="/theme/style.css">x</a>'))
        self.write(
            "export.zip",
            zip_of({"posts.xml": linked.encode(), "plan.pdf": b"%PDF", **SOFTWARE}),
        )
        self.run_ok("draft", "export.zip", "--to", "plainleaf", "--out", "m")
        decisions = self.folder / "m/move.toml"
        self.assertIn('files = "content"', decisions.read_text())
        for choice, expected in (
            ("content", {"plan", "style"}),
            ("shown", {"style"}),
            ("all", {"plan", "style", "site", "settings", "env", "old", "file"}),
        ):
            decisions.write_text(
                decisions.read_text().replace('files = "content"', f'files = "{choice}"')
            )
            self.run_ok("move", "m")
            files = (self.folder / "m/new/files").iterdir()
            self.assertLessEqual({path.name.partition("-")[0] for path in files}, expected)
            moved = [
                row
                for row in rows(self.folder / "m/ledger.csv")
                if row["kind"] == "media" and row["fate"] == "moved"
            ]
            self.assertEqual(len(moved), {"content": 2, "shown": 1, "all": 6}[choice])
            decisions.write_text(
                decisions.read_text().replace(f'files = "{choice}"', 'files = "content"')
            )

    def test_the_survey_says_the_same_as_the_move(self) -> None:
        self.write(
            "export.zip", zip_of({"posts.xml": POSTS, "media.zip": zip_of(FILES), **SOFTWARE})
        )
        findings = {
            finding["code"]: finding["count"]
            for finding in self.survey("export.zip")["findings"]
        }
        self.assertEqual(findings["file-not-content"], len(SOFTWARE))
        self.assertNotIn("file-unused", findings)


class Dialects(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        for name, kind in (("a", "page"), ("b", "document")):
            uri = f"urn:{name}"
            self.write(f"{name}.toml", MINE.format(name=name, uri=uri, kind=kind))
            entry = item(name, f"https://{name}.example/1/", extra="<o:sort>word</o:sort>")
            self.write(
                f"{name}.xml",
                rss(entry, attributes=f'xmlns:o="{uri}"').replace("mistlebank", name),
            )

    def counts(self, *words: str) -> dict[str, int]:
        return self.survey("a.xml", "b.xml", *words)["counts"]

    def test_one_for_each_export(self) -> None:
        self.assertEqual(
            self.counts("--dialect", "a.toml", "--dialect", "b.toml"),
            {"page": 1, "document": 1},
        )
        self.assertEqual(
            self.counts("--dialect", "a.toml", "--dialect", ""), {"post": 1, "page": 1}
        )
        message = self.refused("survey", "a.xml", "--dialect", "a.toml", "--dialect", "b.toml")
        self.assertIn("There are 2 dialects for 1 exports.", message)

    def test_they_are_kept_in_the_move_folder(self) -> None:
        self.run_ok(
            "draft",
            "a.xml",
            "b.xml",
            "--dialect",
            "a.toml",
            "--dialect",
            "b.toml",
            "--to",
            "quarrydesk",
            "--out",
            "m",
        )
        self.assertIn(
            'dialect = ["../a.toml", "../b.toml"]', (self.folder / "m/move.toml").read_text()
        )
        self.run_ok("move", "m")
        kinds = {row["kind"] for row in rows(self.folder / "m/ledger.csv")}
        self.assertLessEqual({"page", "document"}, kinds)

    def test_a_namespace_that_the_export_lacks(self) -> None:
        self.write("c.toml", MINE.format(name="c", uri="urn:a/2", kind="page"))
        findings = {
            finding["code"]: finding
            for finding in self.survey("a.xml", "--dialect", "c.toml")["findings"]
        }
        self.assertIn("urn:a/2", findings["namespace-missing"]["examples"][0])
        codes = [
            finding["code"]
            for finding in self.survey("a.xml", "--dialect", "a.toml")["findings"]
        ]
        self.assertNotIn("namespace-missing", codes)


class Site(FolderCase):
    def test_the_address_that_the_export_does_not_state(self) -> None:
        self.write("site/notes/one.md", "---\ntitle: One\n---\n[Two](two.md)\n")
        self.write("site/notes/two.md", "---\ntitle: Two\n---\nText\n")
        message = self.refused("survey", "site", "--site", "orchard")
        self.assertIn("'orchard' is not a web address", message)
        found = self.survey("site", "--site", "https://old.example")
        self.assertEqual(found["site"]["address"], "https://old.example/")
        self.run_ok(
            "draft", "site", "--to", "lanternlog", "--out", "m", "--site", "https://old.example"
        )
        self.assertIn(
            'address = "https://old.example', (self.folder / "m/move.toml").read_text()
        )
        self.run_ok("move", "m")
        old = [row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")]
        self.assertTrue(all(address.startswith("https://old.example/") for address in old), old)

    def test_a_feed_without_a_link(self) -> None:
        self.write("a.xml", rss(item("One", "/one/")).replace(f"<link>{SITE}</link>", ""))
        found = self.survey("a.xml", "--site", "https://old.example/blog/")
        self.assertEqual(found["site"]["address"], "https://old.example/blog/")
        self.assertEqual(found["permalinks"][0]["example"], "https://old.example/one/")


class Newest(FolderCase):
    def test_of_several_downloads_the_newest_is_named(self) -> None:
        for name, day in (("first.xml", "01"), ("second.xml", "03"), ("third.xml", "02")):
            date = f"<pubDate>{day} May 2023 10:00:00 +0000</pubDate>"
            self.write(name, rss(item("One", SITE + "1/", extra=date)))
        sources = self.survey("first.xml", "second.xml", "third.xml")["sources"]
        self.assertEqual([source["newest"] for source in sources], [False, True, False])
        printed = self.run_ok("survey", "first.xml", "second.xml", "third.xml")
        self.assertEqual(printed.count("the newest export of this site"), 1)
