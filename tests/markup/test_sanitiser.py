"""What the sanitiser takes out, what it leaves alone, and that the docs say so."""

import re
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from newburrow.core.web_schemes import runs_script
from newburrow.markup.html import Fragment
from newburrow.markup.sanitiser import BASELINE, FORBIDDEN, sanitised
from tests.attacks.payloads import payloads

DOCS = Path(__file__).parent.parent.parent / "docs/hosts.md"
# as they come from our own treatment, written by the parser
HARMLESS = (
    "<pre>\n\na\n</pre>", '<ul><li><input type="checkbox" checked="" disabled=""> x</li></ul>', "<p>a &amp; b&nbsp;—<br><!-- more --></p>",
    '<a href="/x" id="y" data-z="1" aria-label="w" rel="nofollow">v</a>', '<img src="data:image/png;base64,AAAA" alt="x" loading="lazy">',
    '<table><caption>c</caption><tbody><tr><th scope="row">a</th><td colspan="2" style="color: red">b</td></tr></tbody></table>',
    '<svg viewBox="0 0 1 1"><path d="M0 0"></path></svg>', "<math><mi>x</mi></math>", '<iframe src="https://v.example/1" allowfullscreen=""></iframe>',
    '<video controls="" src="/a.mp4" poster="/a.png"></video>', '<form action="/x" method="post"><label>a<input name="b" required=""></label></form>',
    '<a href="mailto:a@b.example">x</a><a href="tel:1">y</a><a href="//h.example/">z</a><a href="#f">w</a>', "<textarea>\n\na</textarea>", "plain & text",
    "<details open=\"\"><summary>a</summary>b</details>", "<style>p{color:red}</style>",
)  # fmt: skip


class Sanitising(unittest.TestCase):
    def setUp(self) -> None:
        self.told: list[tuple[str, str, str]] = []

    def clean(self, text: str, *allowed: str) -> str:
        made = Fragment(text).html()
        return sanitised(made, frozenset(allowed), lambda *what: self.told.append(what))

    def test_harmless_html_stays_as_it_is(self) -> None:
        for text in HARMLESS:
            made = Fragment(text).html()
            self.assertEqual(self.clean(made), made)
            self.assertEqual(self.told, [])

    def test_what_goes_is_told(self) -> None:
        for text, told in (
            ('<p onclick="x()">a</p>', ("attribute", "onclick of <p>", "x()")), ("<o:p>a</o:p>", ("element", "o:p", "")),
            ('<a href="x:y">a</a>', ("attribute", "href of <a>", "x:y")), ("<div><object data='x'>y</object></div>", ("element", "object", "")),
            ('<img src="data:text/html,x">', ("attribute", "src of <img>", "data:text/html,x")), ('<b zzz="">x</b>', ("attribute", "zzz of <b>", "")),
        ):  # fmt: skip
            self.told.clear()
            self.clean(text)
            self.assertEqual(self.told, [told])

    def test_a_host_with_elements_of_its_own(self) -> None:
        self.assertEqual(
            self.clean("<p>a<b>b</b><script>c</script></p>", "p", "script"), "<p>abc</p>"
        )

    @given(
        st.lists(
            st.sampled_from(
                [*payloads()[:-3], "<b>", "</p>", "<table>", "<svg>", "--><", "<!--"]
            ),
            max_size=4,
        )
    )
    def test_nothing_that_runs_is_left(self, pieces: list[str]) -> None:
        text = self.clean("".join(pieces))
        found = Fragment(text)
        self.assertEqual(sanitised(found.html(), frozenset(), lambda *_what: None), text)
        for node in found.elements():
            self.assertNotIn((node.tag or "").lower(), FORBIDDEN)
            for name, value in node.attributes.items():
                self.assertFalse(name.startswith("on"), text)
                if name in ("href", "src", "action") and (value or "").isascii():
                    self.assertFalse(runs_script(value or ""), text)

    def test_the_docs_list_it_all(self) -> None:
        section = (
            DOCS.read_text("utf-8")
            .partition("## What leaves in a body")[2]
            .partition("\n## ")[0]
        )
        parts = [
            set(re.findall(r"`([a-z0-9-]+)`(?=[,\n]|$)", part))
            for part in section.split("\n\n")
        ]
        self.assertIn(set(FORBIDDEN), parts)
        self.assertIn(set(BASELINE), parts)
