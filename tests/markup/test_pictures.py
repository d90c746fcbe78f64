"""Pictures that stand as objects and embeds."""

import unittest

from newburrow.core import plugins
from newburrow.markup.pictures import as_images


class Pictures(unittest.TestCase):
    def test_what_is_a_picture_becomes_one(self) -> None:
        for text, wanted in (
            ('<object type="image/svg+xml" data="a.svg" width="100%">A &lt;b&gt;</object>', '<img src="a.svg" alt="A &lt;b&gt;">'),
            ('<p><OBJECT data="/x/a.PNG?v=1&amp;w=2" width=20 height=30></OBJECT></p>', '<p><img src="/x/a.PNG?v=1&amp;w=2" alt="" width="20" height="30"></p>'),
            ('<embed src="a.svg" type="image/svg+xml" title="An &quot;owl&quot;">', '<img src="a.svg" alt="An &quot;owl&quot;">'),
            ('<object data="a.svg"><img src="a.png" alt="An owl"></object>', '<img src="a.svg" alt="An owl">'),
            ('<object data="a.svg"><embed src="a.svg"></object> b', '<img src="a.svg" alt=""> b'),
        ):  # fmt: skip
            self.assertEqual(as_images(text), wanted)
            for markup in ("html", "html-lines"):
                self.assertIn("<img", plugins.get(plugins.MARKUPS, markup).to_html(text))

    def test_what_is_none_stays_byte_for_byte(self) -> None:
        for text in (
            '<object data="a.pdf" type="application/pdf">x</object>',
            '<object data="film.svg" type="text/html"></object>',
            '<object><param name="movie" value="a.swf"></object>',
            '<object data="data:image/png;base64,AAAA"></object>',
            "<p>The &lt;object> of <b>it</p>",
            "<div>" * 2000 + '<object data="a.svg"></object>',
        ):
            self.assertEqual(as_images(text), text)
