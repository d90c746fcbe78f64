"""A site saved as HTML pages, read by the real program: tree, menu, layout, titles, links, comments there and back."""

import gzip
import json

from tests.helpers import FolderCase, rows

LAYOUT = """<!DOCTYPE html><html lang="en"><head><title>{title} :: The Guide</title><link rel="stylesheet" href="{up}look/s.css"></head>
<body><header><nav><ul><li><a href="{up}index.html">Start</a></li><li><a href="{up}trees/index.html">Trees</a>
<ul><li><a href="{up}trees/pear.html">Pear</a></li></ul></li></ul></nav></header><main><h1>{title}</h1>{body}</main>
<footer>Printed on paper</footer></body></html>"""
PAGES = {
    "index.html": ("Welcome", "", '<p>To <a href="trees/">trees</a>, <a href="trees/pear.html#cut">cuts</a>, <a href="no.html">no</a>.</p>'),
    "trees/index.html": ("Trees", "../", '<p><a href="./pear.html">Pear</a> <img src="../pics/a.png" alt="a"></p>'),
    "trees/pear.html": ("Pear", "../", '<h2 id="cut">Cut<a href="#cut">¶</a></h2><p><a href="../index.html">back</a> <a href="deep/er/root.html">root</a></p>'),
    "trees/deep/er/root.html": ("Root", "../../../", '<p><a href="../../pear.html">up</a></p>'),
}  # fmt: skip


class Pages(FolderCase):
    def site(self) -> None:
        for name, (title, up, body) in PAGES.items():
            self.write(f"guide/{name}", LAYOUT.format(title=title, up=up, body=body))
        self.write("guide/look/s.css", "b{}")
        self.write("guide/pics/a.png", b"\x89PNG\r\n")
        self.write("guide/feed.xml", "<rss version='2.0'><channel><item><link>https://g.example/trees/pear.html</link>"
                   "<pubDate>Tue, 02 Feb 2021 10:00:00 GMT</pubDate><author>i@g.example (Idris)</author><category>fruit</category></item></channel></rss>")  # fmt: skip

    def test_pages_that_the_sitemap_does_not_list_can_be_left_out(self) -> None:
        self.site()
        listed = "".join(
            f"<url><loc>https://g.example/{name}</loc></url>"
            for name in PAGES
            if name != "trees/pear.html"
        )
        self.write(
            "guide/sitemap.xml",
            f'<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">{listed}</urlset>',
        )
        site = ("--site", "https://g.example/")
        findings = {found["code"]: found for found in self.survey("guide", *site)["findings"]}
        self.assertEqual(findings["outside-sitemap"]["count"], 1)
        self.run_ok("draft", "guide", *site, "--to", "plainleaf", "--out", "m")
        with (self.folder / "m/move.toml").open("a") as stream:
            stream.write("\n[[choose.leave]]\noutside_sitemap = true\n")
        self.run_ok("move", "m")
        fates = {
            row["title"]: row["fate"]
            for row in rows(self.folder / "m/ledger.csv")
            if row["kind"] == "page"
        }
        self.assertEqual(fates.pop("Pear"), "left-out")
        self.assertEqual(set(fates.values()), {"moved"})

    def test_compressed_pages_stand_where_servers_show_them(self) -> None:
        """A copy of a page that is there too is left out; another version of it is kept; a sitemap is used."""
        self.site()
        pages = {name: (self.folder / "guide" / name).read_bytes() for name in PAGES}
        (self.folder / "guide/trees/deep/er/root.html").unlink()
        self.write(
            "guide/trees/deep/er/root.html.gz", gzip.compress(pages["trees/deep/er/root.html"])
        )
        self.write("guide/trees/pear.html.gz", gzip.compress(pages["trees/pear.html"]))
        self.write(
            "guide/index.html.gz",
            gzip.compress(pages["index.html"].replace(b"Welcome", b"Hello")),
        )
        sitemap = (
            '<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>https://g.example/trees/deep/er/root.html</loc>'
            "<lastmod>2019-05-06</lastmod></url></urlset>"
        )
        self.write("guide/sitemap.xml.gz", gzip.compress(sitemap.encode()))
        self.run_ok(
            "move", "guide", "--site", "https://g.example/", "--to", "plainleaf", "--out", "m"
        )
        ledger = {row["title"]: row for row in rows(self.folder / "m/ledger.csv")}
        self.assertEqual(
            ledger["Root"]["old_address"], "https://g.example/trees/deep/er/root.html"
        )
        copy = ledger["trees/pear.html.gz/pear.html"]
        self.assertEqual(
            (copy["fate"], copy["reason"]),
            ("left-out", "is a compressed copy of trees/pear.html"),
        )
        self.assertEqual(ledger["Hello"]["fate"], "moved")
        self.assertIn("is a sitemap of the old site", ledger["sitemap.xml.gz"]["reason"])
        text = next((self.folder / "m/new/texts").rglob("root.md")).read_text("utf-8")
        self.assertIn("updated: '2019-05-06", text)

    def test_a_mirror_in_a_folder_named_for_its_host(self) -> None:
        """The name counts where an address on a page confirms it: other folders have dots in their names too."""
        page = "<!DOCTYPE html><title>Pears</title><main><p>Pears. <a href='{}'>More</a></p></main>"
        for folder, link, site in (
            ("www.g.example", "HTTP://www.g.example/search?q=pear", "http://www.g.example/"),
            ("g.example", "https://g.example.org/", "https://old-site.example/"),
            ("backup.old", "https://backup.older.example/", "https://old-site.example/"),
        ):
            for name in ("index.html", "a.html", "b/c.html"):
                self.write(f"{folder}-saved/{folder}/{name}", page.format(link))
            self.assertEqual(self.survey(f"{folder}-saved")["site"]["address"], site)

    def test_pages_that_state_a_place_on_a_disk(self) -> None:
        for name, (title, up, body) in PAGES.items():
            place = f'<link rel="canonical" href="file:///srv/guide/{name}"></head>'
            page = LAYOUT.format(title=title, up=up, body=body)
            self.write(f"guide/{name}", page.replace("</head>", place))
        self.run_ok("move", "guide", "--to", "plainleaf", "--out", "m")
        old = [row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")]
        self.assertIn("https://old-site.example/trees/pear.html", old)
        written = "".join(
            path.read_text("utf-8") for path in (self.folder / "m/new").rglob("*.md")
        )
        self.assertNotIn("file:", written)
        self.assertIn("(https://new-site.example/trees/pear.html#cut)", written)

    def test_a_documentation_tree(self) -> None:
        self.site()
        self.run_ok(
            "move", "guide", "--site", "https://g.example/", "--to", "plainleaf", "--out", "m"
        )
        ledger = {row["title"]: row for row in rows(self.folder / "m/ledger.csv")}
        self.assertEqual(ledger["look/s.css"]["fate"], "left-out")
        self.assertEqual(ledger["feed.xml"]["fate"], "left-out")
        pear = ledger["Pear"]["new_address"]
        self.assertEqual(ledger["Pear"]["old_address"], "https://g.example/trees/pear.html")
        for row in ledger.values():  # the host takes any pattern, so that all addresses stay
            if row["kind"] == "page" and row["title"] != "Welcome":
                self.assertEqual(row["new_address"], row["old_address"])
        self.assertEqual(ledger["Welcome"]["kind"], "page")  # without the name of the site
        shown = {}
        for path in (self.folder / "m/new/texts").rglob("*.md"):
            front, _line, body = path.read_text().partition("\n---\n")
            shown[path.stem] = (front, body)
        self.assertIn("parent: trees/index.html", shown["pear"][0])
        self.assertIn("date: '2021-02-02T10:00:00+00:00'", shown["pear"][0])  # of the feed
        self.assertIn("Idris", shown["pear"][0])
        self.assertNotIn("parent", shown["root"][0])  # no page is above it
        self.assertNotIn("¶", shown["pear"][1])
        self.assertNotIn("Printed on paper", shown["pear"][1])
        self.assertIn(f"({pear}#cut)", shown["index"][1])
        self.assertIn("/files/a-", shown["trees"][1])
        menu = [
            json.loads(line)
            for line in (self.folder / "m/new/facts/menu.jsonl").read_text("utf-8").splitlines()
        ]
        self.assertEqual([line["label"] for line in menu], ["Start", "Trees", "Pear"])
        self.assertEqual(menu[2]["parent"], menu[1]["id"])
        what = [
            row["what"]
            for row in rows(self.folder / "m/follow-ups.csv")
            if row["kind"] == "dead-link"
        ]
        self.assertEqual(len(what), 1)
        self.assertIn("https://g.example/no.html", what[0])

    def test_addresses_that_would_be_one_file(self) -> None:
        """`/trees/` and `/trees.html`, also with what they said before."""
        self.site()
        page = LAYOUT.format(title="Wood", up="", body="<p>Of <a href='trees/'>trees</a>.</p>")
        self.write("guide/trees.html", page)
        for host, ending in (("plainleaf", "md"), ("sedgewiki", "html")):
            out = f"m-{host}"
            self.run_ok(
                "move", "guide", "--site", "https://g.example/", "--to", host, "--out", out
            )
            self.assertIn(
                "every difference from the old site is explained", self.run_ok("verify", out)
            )
            if host == "plainleaf":
                found = sorted(
                    path.name for path in (self.folder / out / "new").rglob(f"trees*.{ending}")
                )
                self.assertEqual(found, ["trees-2.md", "trees.md"])

    def test_a_selector_that_is_none(self) -> None:
        self.site()
        for line, words in (
            ('take = { title = "h1[" }', "is not a CSS selector"),
            ('take = { title = "(tite)" }', "is not a fact of a page"),
            ('take = { titel = "h1" }', "Did you mean 'title'"),
        ):
            self.write(
                "d.toml", f'name = "d"\nformat = "html"\n[[records]]\nof = "entry"\n{line}\n'
            )
            message = self.refused("survey", "guide", "--dialect", "d.toml")
            self.assertIn(words, message)
            self.assertIn("line 5", message)

    def test_pages_that_are_none(self) -> None:
        self.write("s/index.html", b"\x00\x01<html>")
        self.write("s/a.html", "no markup at all")
        self.write("s/b.html", "<p>a paragraph alone")
        self.write("s/c.html", "<div>" * 5000 + "deep" + "<script>x()</script>")
        self.write(
            "s/d.html",
            "<html><head><meta charset=windows-1252></head><body><main>caf\xe9</main>".encode(
                "cp1252"
            ),
        )
        found = self.survey("s")
        self.assertEqual(found["counts"]["page"], 3)
        self.assertEqual(found["counts"]["media"], 2)  # what is no page is a file
        self.run_ok("move", "s", "--to", "lanternlog", "--out", "m")
        feed = (self.folder / "m/new/lanternlog-import.atom").read_text()
        self.assertIn("café", feed)
        self.assertNotIn("x()", feed)
