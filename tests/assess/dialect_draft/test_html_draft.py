"""Selectors proposed from a sample of pages: the draft can be used as it is, and finds what the pages hold."""

import re

from tests.commands.test_wikis import export
from tests.helpers import FolderCase

PAGE = """<html><head><title>{title} | Shed</title></head><body><div id="top">Shed of all things</div>
<div class="crumbs"><a href="/">Start</a> <a href="/{n}">Shelf {n}</a></div>
<div class="entry"><h3 class="heading">{title}</h3><div class="meta">by <span class="author">Writer {n}</span>,
<span class="date">2020-0{n}-11</span></div><div class="story"><p>{words}</p></div>
<div class="tags"><a href="/t/a">a{n}</a> <a href="/t/b">b</a></div></div>
<div class="comments"><div class="comment" id="k1"><span class="author">Ann</span><p class="text">First {n}</p></div>
<div class="comment" id="k2"><span class="author">Bo</span><p class="text">Second {n}</p></div></div>
<div id="foot">All rights</div></body></html>"""


class Drafts(FolderCase):
    def test_of_a_platform_that_nobody_knows(self) -> None:
        for n in range(1, 10):
            words = " ".join(f"word{n}{place}" for place in range(40))
            self.write(f"s/p{n}.html", PAGE.format(n=n, title=f"Thing {n}", words=words))
        draft = self.run_ok("dialects", "--draft-from", "s")
        for line in (
            'title = ["h3.heading", "(title)"]', 'published = ["span.date", "(published)"]', 'body = ["div.story", "(body)"]',
            'each = "div.comment"', 'tag = ["div.tags a", "(tags)"]', 'take.body = "p.text"', "div#foot: All rights",
        ):  # fmt: skip
            self.assertIn(line, draft)
        self.assertIn("on 9 of 9 pages: Thing 1", draft)
        self.write("d.toml", draft)
        found = self.survey("s", "--dialect", "d.toml")
        self.assertEqual(found["counts"]["page"], 9)
        self.assertEqual(found["counts"]["comment"], 18)
        self.assertEqual(found["counts"]["tag"], 10)
        self.assertEqual(
            found["largest"][0]["bytes"],
            len("<p></p>") + len(" ".join(f"word1{place}" for place in range(40))),
        )

    def test_trails_and_pages_of_another_kind(self) -> None:
        """Lists of a search lie among the pages; the trail is a list of links, the last of which is above the page."""
        for n in range(1, 13):
            words = " ".join(f"word{n}{place}" for place in range(40))
            page = PAGE.format(n=n, title=f"Thing {n}", words=words)
            trail = f'<ul class="crumbs"><li><a href="p1.html">Top</a></li><li><a href="p{n - n % 4 + 1}.html">Up</a></li></ul>'
            self.write(f"s/p{n}.html", re.sub('(?s)<div class="crumbs">.*?</div>', trail, page))
        for n in range(1, 5):
            self.write(f"s/search{n}.html", f"<div class='hits'><b>Loading {n}</b></div>")
        draft = self.run_ok("dialects", "--draft-from", "s")
        self.assertIn("# 12 pages were looked at.\n# 4 more", draft)
        self.assertIn('body = ["div.story", "(body)"]', draft)
        self.write("d.toml", draft)
        self.run_ok("move", "s", "--dialect", "d.toml", "--to", "plainleaf", "--out", "m")
        self.assertIn(
            "parent: p5.html", next(self.folder.glob("m/new/texts/**/p6*")).read_text()
        )

    def test_a_line_that_says_more_and_headings_with_the_name_of_the_site(self) -> None:
        for n in range(1, 10):
            words = " ".join(f"word{n}{place}" for place in range(40))
            page = PAGE.format(n=n, title=f"Shed : Thing {n}", words=words)
            meta = (
                f'<div class="line">Created by Ann, last modified by Bo on Jan 0{n}, 2020</div>'
            )
            page = re.sub('(?s)<div class="meta">.*?</div>', meta, page)
            box = f'<div class="box"><a href="f/{n}.pdf">Plan {n}</a></div><div id="foot"><a href="/">Up</a>'
            page = page.replace('<div id="foot">', box)
            self.write(f"s/p{n}.html", page.replace(" | Shed</title>", "</title>"))
            self.write(f"s/f/{n}.pdf", f"%PDF {n}")
        draft = self.run_ok("dialects", "--draft-from", "s")
        self.assertIn('of = "media"\neach = "div.box a[href]"', draft)
        self.assertIn('updated = ["div.line", "(updated)"]', draft)
        self.write("d.toml", draft)
        shown = self.run_ok("show", "s", "p3.html", "--dialect", "d.toml")
        self.assertRegex(shown, r"(?m)^title: +Thing 3$")
        self.assertRegex(shown, r"(?m)^updated: +2020-01-03T")

    def test_dates_in_words(self) -> None:
        """The date of a page and those of its comments are told apart, though both are written for readers."""
        months = ("January", "March", "October")
        for n in range(1, 10):
            page = PAGE.format(
                n=n, title=f"Thing {n}", words=" ".join(f"w{n}{place}" for place in range(40))
            )
            page = page.replace(f"2020-0{n}-11", f"{n} {months[n % 3]} 2020")
            page = page.replace(
                "</span><p",
                f'</span> <i class="at">{months[n % 3]} {n}, 2021 at 10:05 pm</i><p',
            )
            self.write(f"s/p{n}.html", page)
        draft = self.run_ok("dialects", "--draft-from", "s")
        self.assertIn('published = ["span.date", "(published)"]', draft)
        self.assertIn('take.published = "i.at"', draft)
        self.write("d.toml", draft)
        found = self.survey("s", "--dialect", "d.toml")
        self.assertEqual(
            (found["first"], found["last"]), ("2020-01-03T00:00:00Z", "2020-10-08T00:00:00Z")
        )

    def test_of_the_wiki(self) -> None:
        self.write("w.zip", export("sedgewiki"))
        self.write("d.toml", self.run_ok("dialects", "--draft-from", "w.zip"))
        found = self.survey("w.zip", "--dialect", "d.toml")
        self.assertEqual(
            (found["counts"]["comment"], found["counts"]["tag"], found["counts"]["media"]),
            (60, 12, 30),
        )
