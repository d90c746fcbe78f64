"""Frames, embeds and objects without a page of their own."""

import base64
import unittest

from newburrow.core import plugins
from newburrow.markup.frames import as_shown
from tests.helpers import FolderCase, rows

HELD = base64.b64encode(b"<body><p>Pears</p>").decode()


class Frames(unittest.TestCase):
    def test_what_is_seen_stands_in_place_of_the_frame(self) -> None:
        for text, wanted in (
            ('<iframe srcdoc="&lt;p&gt;Pears &amp;amp; figs&lt;/p&gt;"></iframe>', "<div><p>Pears &amp; figs</p></div>"),
            ('<iframe srcdoc="&lt;iframe srcdoc=&quot;&lt;b&gt;In&lt;/b&gt;&quot;&gt;"></iframe>', "<div><div><b>In</b></div></div>"),
            ('<iframe src="data:text/html,%3Cp%3EFigs%3C/p%3E"></iframe>', "<div><p>Figs</p></div>"),
            (f'<object data="data:text/html;charset=utf-8;base64,{HELD}"></object>', "<div><p>Pears</p></div>"),
            ('<p>a</p><iframe></iframe><iframe src=" "></iframe><embed src="about:blank">', "<p>a</p>"),
            ("<object><p>Old</p></object>", "<p>Old</p>"),
            ('<object><param name="movie" value="a.swf?b&amp;c"><embed src="a.swf"></object>', '<embed src="a.swf">'),
            ('<object classid="x"><PARAM NAME="Movie" VALUE="a.swf?b&amp;c"></object>', '<embed src="a.swf?b&amp;c">'),
        ):  # fmt: skip
            for markup in ("html", "html-lines"):
                self.assertIn(wanted, plugins.get(plugins.MARKUPS, markup).to_html(text), text)

    def test_what_shows_a_page_stays_byte_for_byte(self) -> None:
        for text in (
            "<iframe src=https://film.example/1></iframe>",
            '<iframe data-src="https://film.example/1"></iframe>',
            '<iframe src="about:blank" data-lazy-src="https://film.example/1"></iframe>',
            '<iframe srcdoc="x" src="https://film.example/1"></iframe>',
            '<iframe src="javascript:void(0)"></iframe>',
            '<iframe src="data:text/html;base64,A"></iframe>',
            "<p>&lt;iframe> is none</p>",
            "<div>" * 2000 + "<iframe></iframe>",
        ):
            self.assertEqual(as_shown(text), text)


class Moved(FolderCase):
    TEXT = (
        '<h1>Frames</h1><p>one</p><iframe src="javascript:void(0)"></iframe><p>two</p><iframe src="other.html">unseen</iframe>'
        '<object data="javascript:alert(1)">Old words</object><object data="a.pdf"><p>Get the <a href="a.pdf">paper</a>.</p></object>'
        '<object data="b.pdf"><p>A paper.</p></object>'
    )

    def test_words_for_readers_who_cannot_see_an_object_stay(self) -> None:
        for name, text in (("index", self.TEXT), ("other", "<h1>Other</h1><p>Text</p>")):
            self.write(f"s/{name}.html", text)
        for name in "ab":
            self.write(f"s/{name}.pdf", f"%PDF-1.4 {name}")
        for host in ("plainleaf", "reedpost", "tarnwiki"):
            self.run_ok("move", "s", "--to", host, "--out", host)
            self.run_ok("verify", host)
        text = (self.folder / "plainleaf/new/texts/index.md").read_text()
        for words in ("Old words", "Get the [paper](", "[https://new-site.example/files/b-", "A paper."):  # fmt: skip
            self.assertIn(words, text)
        for words in ("javascript", "[https://new-site.example/files/a-"):
            self.assertNotIn(words, text)
        codes = [row["kind"] for row in rows(self.folder / "plainleaf/follow-ups.csv")]
        self.assertIn("script-link", codes)
