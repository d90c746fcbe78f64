"""Manuals built by programs, read by the real program: their links from page to page, aliases, titles, pictures, tree."""

import json
import tarfile
from typing import Any

from tests.helpers import SITE, FolderCase, rows

HEAD = '<html><head><title>{title} (The Orchard Manual (2nd edition))</title><meta name="keywords" content="{title} (The Orchard Manual (2nd edition))">{links}</head><body>'
KEYS = (
    '<div class="top"><p>Next: <a href="{next}" accesskey="n" rel="next">{next}</a>, Previous: <a href="{prev}" accesskey="p" rel="prev">'
    '{prev}</a>, Up: <a href="{up}" accesskey="u" rel="up">{up}</a> [<a href="index.html#toc" rel="contents">Contents</a>]</p></div><hr>'
)
TABLE = (
    '<div class="navhead"><table><tr><th colspan="5">{title}</th></tr><tr><td><a accesskey="p" href="{prev}">Back</a></td>'
    '<td><a accesskey="u" href="{up}" title="The Part Above">Up</a></td><th>The Part Above</th><td><a accesskey="n" href="{next}">On'
    "</a></td></tr></table><hr></div>"
)
SIGNS = (
    '<table class="bar"><tr><td><a href="#">Top</a> | <a href="#words">Words</a></td><td><a href="{up}"><img src="up.png" alt="Up" width="16">'
    '</a></td><td><a href="{prev}"><img src="l.png" alt="Back" width="16"></a></td><td><img src="off.png" width="16"></td></tr></table>'
)
LINKS = (
    '<link rel="prev" href="{prev}"><link rel="up" href="{up}"><link rel="next" href="{next}">'
)


class Manuals(FolderCase):
    def page(self, name: str, title: str, body: str, style: str = "", **to: str) -> None:
        there = {
            "title": title,
            "prev": "index.html",
            "next": "index.html",
            "up": "index.html",
            **to,
        }
        links = LINKS.format(**there) if style == SIGNS else ""
        text = HEAD.format(title=title, links=links) + style.format(**there) + body
        self.write(f"man/{name}", text + "</body></html>")

    def entries(self) -> dict[str, dict[str, Any]]:
        self.run_ok(
            "move", "man", "--site", "https://m.example/", "--to", "sedgewiki", "--out", "m"
        )
        shown = json.loads(self.run_ok("survey", "man", "--json"))
        self.assertNotIn("tag", shown["counts"])  # the keywords are the title
        self.assertEqual(shown["site"]["title"], "The Orchard Manual (2nd edition)")
        found = {}
        for name in ("trees.html", "pear.html", "cuts.html"):
            found[name] = self.record(name)
        return found

    def record(self, name: str, *more: str) -> dict[str, Any]:
        shown = json.loads(self.run_ok("show", "man", name, "--json", *more))
        return shown["record"]  # type: ignore[no-any-return]

    def test_links_from_page_to_page_are_the_layout_and_give_the_tree(self) -> None:
        for style in (KEYS, TABLE, SIGNS):
            self.page(
                "index.html",
                "The Orchard Manual (2nd edition)",
                '<a href="trees.html">Trees</a>',
            )
            # Its list begins with the page that is next, and is no navigation.
            toc = '<h3>In it</h3><ul><li><a href="pear.html">Pears</a> that keep</li></ul>'
            self.page("trees.html", "Trees", toc, style, next="pear.html")
            self.page(
                "pear.html",
                "Pears",
                "<p>Short.</p>",
                style,
                prev="trees.html",
                next="cuts.html",
                up="trees.html",
            )
            text = '<p>After this, the <a rel="next" href="cuts.html">next chapter</a> says how to cut them back.</p>'
            self.page("cuts.html", "Cuts", text, style, prev="pear.html", up="trees.html")
            with self.subTest(style=style[:20]):
                found = self.entries()
                bodies = {name: entry["body"]["text"].strip() for name, entry in found.items()}
                self.assertEqual(bodies["trees.html"], toc)
                self.assertEqual(bodies["pear.html"], "<p>Short.</p>")
                self.assertEqual(bodies["cuts.html"], text)
                self.assertEqual(
                    [entry["title"] for entry in found.values()], ["Trees", "Pears", "Cuts"]
                )
                new = {
                    row["title"]: row["new_address"]
                    for row in rows(self.folder / "m/ledger.csv")
                }
                self.assertEqual(new["Cuts"], f"{new['Trees']}/cuts")

    def test_a_page_that_leads_on_is_an_address_of_the_other(self) -> None:
        self.page(
            "index.html",
            "Start",
            '<a href="old.html">Pears</a> <a href="older.html#x">Older</a> <a href="gone.html">Gone</a>',
        )
        self.page("pear.html", "Pears", "<p>Keep them cool.</p>")
        self.page("wait.html", "Wait", "<p>Read this first.</p>")
        for name, refresh in (
            ("old.html", '<meta http-equiv="refresh" content="0; url=pear.html#keep">'),
            ("older.html", "<META HTTP-EQUIV=Refresh CONTENT=\"3;URL='old.html'\">"),
            ("gone.html", '<meta http-equiv="refresh" content="0;url=nowhere.html">'),
            (
                "few.html",
                '<noscript><meta http-equiv="refresh" content="0;url=pear.html"></noscript>',
            ),
            ("self.html", '<meta http-equiv="refresh" content="5; url=self.html">'),
        ):
            self.write(
                f"man/{name}",
                f"<html><head><title>T</title>{refresh}</head><body><p>It is <a href='pear.html'>there</a>.</body></html>",
            )
        site = ("--site", "https://m.example/")
        found = self.survey("man", *site)
        self.assertEqual(
            found["counts"]["page"], 5
        )  # the three with a text, and two that lead nowhere else
        self.assertIn("redirect-to-nothing", {finding["code"] for finding in found["findings"]})
        self.run_ok("move", "man", *site, "--to", "plainleaf", "--out", "m")
        answers = {
            row["old"]: row["new"] for row in rows(self.folder / "m/redirects/addresses.csv")
        }
        pear = answers["https://m.example/pear.html"]
        self.assertEqual(answers["https://m.example/old.html"], pear)
        self.assertEqual(answers["https://m.example/older.html"], pear)
        text = next((self.folder / "m/new/texts").rglob("index.md")).read_text("utf-8")
        self.assertIn(f"({pear}) ", text)
        self.assertIn(f"({pear}#x)", text)

    def test_a_link_among_the_files_is_an_address_of_its_page(self) -> None:
        self.page(
            "index.html", "Start", '<a href="ch1.html">Pears</a> <a href="first.html">First</a>'
        )
        self.page("fruit/pear.html", "Pears", "<p>Keep them cool.</p>")
        self.write("secret.html", "<html><body><p>Not yours.</p></body></html>")
        for name, target in (
            ("ch1.html", "fruit/pear.html"), ("first.html", "ch1.html"), ("round.html", "round.html"),
            ("out.html", "../secret.html"), ("root.html", "/etc/hostname"), ("fruit/up.html", "../index.html"),
        ):  # fmt: skip
            (self.folder / "man" / name).symlink_to(target)
        with tarfile.open(self.folder / "man.tgz", "w:gz") as archive:
            archive.add(self.folder / "man", ".")
        for path in ("man", "man.tgz"):
            self.run_ok(
                "move",
                path,
                "--site",
                "https://m.example/",
                "--to",
                "plainleaf",
                "--out",
                f"m-{path}",
            )
            answers = {
                row["old"]: row["new"]
                for row in rows(self.folder / f"m-{path}/redirects/addresses.csv")
            }
            pear = answers["https://m.example/fruit/pear.html"]
            self.assertEqual(answers["https://m.example/ch1.html"], pear)
            self.assertEqual(answers["https://m.example/first.html"], pear)
            self.assertIn("https://m.example/fruit/up.html", answers)
            self.assertEqual(
                [old for old in answers if "out" in old or "root" in old or "round" in old], []
            )
            written = "".join(
                file.read_text("utf-8")
                for file in (self.folder / f"m-{path}/new/texts").rglob("*.md")
            )
            self.assertNotIn("Not yours", written)
            self.assertEqual(written.count(f"({pear})"), 2)
            fates = {
                row["title"]: row["fate"] for row in rows(self.folder / f"m-{path}/ledger.csv")
            }
            self.assertEqual(
                {fates[name] for name in ("ch1.html", "out.html", "root.html")}, {"left-out"}
            )

    def test_a_page_of_xhtml(self) -> None:
        """What closes itself there is closed; in HTML it would stay open, and hold the rest of the page."""
        for head in (
            '<?xml version="1.0"?><html>',
            '<html xmlns="http://www.w3.org/1999/xhtml">',
            "<html>",
        ):
            self.write(
                "man/a.html",
                f'{head}<head><title>A</title></head><body><p><a id="x"/>One</p><ul><li>two<br/></li></ul></body></html>',
            )
            links = self.record("a.html")["body"]["text"].count("<a ")
            self.assertEqual(links > 1, head == "<html>")

    def test_the_front_page_in_a_language(self) -> None:
        for names, front in (
            (("index.en.html", "pear.en.html"), "Of index.en"),
            (("index.en.html", "index.de.html"), ""),
        ):
            for name in names:
                self.write(
                    f"s/{name}",
                    f"<html><head><title>Of {name[:-5]}</title></head><body><p>Words.</p></body></html>",
                )
            self.assertEqual(
                json.loads(self.run_ok("survey", "s", "--json"))["site"].get("title", ""), front
            )

    def test_the_front_page_that_pages_name(self) -> None:
        """Without an index, it is the page that most call the start; one page alone may be wrong."""
        for number in range(4):
            start = "deep/all.html" if number else "pear-1.html"
            self.write(
                f"s/pear-{number}.html",
                f'<html><head><link rel="start" href="{start}#top"><title>P</title></head><body><p>Words.</p></body></html>',
            )
        self.write(
            "s/deep/all.html",
            "<title>All of it</title><p>Words <a href='../pear-1.html'>x</a>.</p>",
        )
        self.run_ok("move", "s", "--to", "plainleaf", "--site", SITE, "--out", "m")
        front = json.loads((self.folder / "m/new/site.json").read_text())["front_page"]
        self.assertEqual(front, "deep/all.html")

    def test_titles_and_the_names_of_headings(self) -> None:
        """A heading that names the site is no title; the sign by which a heading links to itself leaves its name there."""
        for name, banner in (
            ("pear", "Orchard Book"),
            ("plum", "orchard book"),
            ("fig", '<a href="index.html">All of it</a>'),
        ):
            self.write(
                f"man/{name}.html",
                f"<html><head><title>{name.title()}s | Orchard Book</title></head><body><h1>{banner}</h1><h2>{name.title()}s</h2><h3>Cuts"
                '<span><a class="mark" href="#cuts" id="cuts">#</a></span></h3><p>Words. <a href="#cuts">How to cut</a></p></body></html>',
            )
        self.run_ok("move", "man", "--to", "tarnwiki", "--out", "m")
        titles = {
            row["title"] for row in rows(self.folder / "m/ledger.csv") if row["kind"] == "page"
        }
        self.assertEqual(titles, {"Pears", "Plums", "Figs"})
        self.assertIn('<h3 id="cuts">Cuts', self.record("pear.html")["body"]["text"])
        self.assertIn(
            "[[#cuts|How to cut]]",
            (self.folder / "m/new/pages/Pears.creole").read_text("utf-8"),
        )
        self.run_ok("verify", "m")

    def test_pages_of_one_name_in_other_places_are_not_the_same(self) -> None:
        link = '<link rel="canonical" href="https://m.example/new/{0}.html">'
        for name in ("pear", "plum", "quince"):
            text = f'<p><a href="https://m.example/1st/{name}.html">as it was</a> <a href="../x/index.html">x</a></p>'
            self.write(
                f"man/{name}.html",
                f"<html><head><title>{name}</title>{link.format(name)}</head><body>{text}</body></html>",
            )
        self.run_ok("move", "man", "--to", "plainleaf", "--out", "m")
        old = [row["old"] for row in rows(self.folder / "m/redirects/addresses.csv")]
        self.assertEqual(
            [address for address in old if "/1st/" in address or "/x/" in address], []
        )
        text = (self.folder / "m/new/texts/pear.md").read_text("utf-8")
        self.assertIn("(https://m.example/1st/pear.html)", text)

    def test_what_a_dialect_calls_layout_is_not_read(self) -> None:
        for name in ("pear", "plum", "quince"):
            text = f"<div id='say'>Sow today</div><p>All of {name}s.</p><div class='end'>Printed<img src='logo.png'></div>"
            self.page(f"{name}.html", name.title(), text)
        draft = self.run_ok("dialects", "--draft-from", "man")
        self.assertIn('"div#say",  # Sow today', draft)
        self.assertIn('"div.end",  # Printed logo.png', draft)
        self.write("d.toml", draft)
        for rules in (draft, draft.replace('body = "(body)"', 'body = "body"')):
            self.write("d.toml", rules)
            shown = self.record("pear.html", "--dialect", "d.toml")
            self.assertEqual(shown["body"]["text"].strip(), "<p>All of pears.</p>")
        for line, words in (
            ('layout = ["(title)"]', "is not an element"),
            ('layout = ["div["]', "not a CSS selector"),
        ):
            self.write(
                "d.toml", f'name = "d"\nformat = "html"\n[[records]]\nof = "entry"\n{line}\n'
            )
            self.assertIn(words, self.refused("survey", "man", "--dialect", "d.toml"))
        self.write(
            "d.toml", 'name = "d"\nformat = "csv"\n[[records]]\nof = "entry"\nlayout = ["p"]\n'
        )
        self.assertIn(
            "Only HTML pages have a layout",
            self.refused("survey", "man", "--dialect", "d.toml"),
        )

    def test_headings_that_link_to_the_contents(self) -> None:
        """The contents are layout: what leads to them would lead nowhere. What else a heading links to stays."""
        contents = '<nav id="contents"><ul><li><a href="#why" id="toc1">Why</a></li></ul></nav>'
        body = (
            f'<main><h1 id="top">Trees <a href="#top">\u25c6</a></h1>{contents}<section id="why"><h2><a class="back" href="#toc1">Why</a><a href="#why">¶</a></h2>'
            '<p>So.</p><h2><a href="#why">Again</a></h2><h2><a href="#toc1" id="how">How</a></h2><p><a href="#how">it</a></p>'
            '<h3>Cut<a href="#why"> \u25c6</a></h3><h3><a href="#why">&amp;</a></h3><h3>Note<a href="#fn">†</a></h3><p id="fn">n</p></section></main>'
        )
        self.page("trees.html", "Trees", body)
        self.page(
            "index.html",
            "Front",
            '<main><h1>Front</h1><p><a href="trees.html#why">t</a></p></main>',
        )
        self.run_ok(
            "move", "man", "--site", "https://m.example/", "--to", "tarnwiki", "--out", "m"
        )
        text = (
            (self.folder / "m/new/pages/Trees.creole")
            .read_text("utf-8")
            .partition("---\n\n")[2]
        )
        self.assertEqual(
            text,
            "== Why ==\n\nSo.\n\n== [[#why|Again]] ==\n\n== How ==\n\n[[#how|it]]\n\n=== Cut ===\n\n=== [[#why|&]] ===\n\n=== Note† ===\n\nn\n",
        )
        self.assertIn(
            "every difference from the old site is explained", self.run_ok("verify", "m")
        )
