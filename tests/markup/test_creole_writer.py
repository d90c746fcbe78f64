"""HTML to Creole 1.0 and back."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from newburrow.markup.creole import MARKUP
from newburrow.markup.html import Fragment

CASES = (
    ("<p>a <b>bold <i>it</i></b> x</p>", "a **bold //it//** x"),
    ("<p>line<br>two</p>", "line\\\\two"),
    ("<ul><li>one<ul><li>two</li></ul></li></ul><ol><li>x</li></ol>", "* one\n** two\n\n# x"),
    ("<h2>H <b>x</b></h2><hr>", "== H **x** ==\n\n----"),
    ("<pre>a\n}}}\nb</pre>", "{{{\na\n }}}\nb\n}}}"),
    ("<table><tr><th>a|b</th><td>=c</td></tr></table>", "|=a~|b|~=c|"),
    (
        '<p><a href="https://a.example/x|y">w</a> <img src="/p.jpg" alt="alt"></p>',
        "[[https://a.example/x%7Cy|w]] {{/p.jpg|alt}}",
    ),
    (
        "<p>* no item</p><p>= none</p><p>| no</p><p>---- x</p>",
        "~* no item\n\n~= none\n\n~| no\n\n~---- x",
    ),
    ("<p>at https://a.example/b//c.</p>", "at ~https://a.example/b//c."),
    ("<p><code>a  b</code> <code>x}</code></p>", "{{{a b}}} x}"),
    ("<ul><li><p>one</p><p>two</p></li></ul>", "* one\\\\two"),
    ("<blockquote><p>said</p></blockquote>", "said"),
)


def words(html: str) -> str:
    """The visible words, without the space that Creole does not keep."""
    root = Fragment(f"<div>{html}</div>").first()
    return "".join((root.text() if root is not None else "").split())


class ToCreole(unittest.TestCase):
    def test_each_construct(self) -> None:
        for html, creole in CASES:
            self.assertEqual(MARKUP.from_html(html), creole + "\n")
            self.assertEqual(words(MARKUP.to_html(creole)), words(html), creole)

    def test_what_creole_can_say_comes_back(self) -> None:
        for html, _creole in CASES[:6]:
            again = MARKUP.from_html(MARKUP.to_html(MARKUP.from_html(html)))
            self.assertEqual(again, MARKUP.from_html(html))

    @given(
        st.text(alphabet="*/\\[]{}~|=#-_ab:. \nhttps", max_size=40),
        st.sampled_from(("<p>", "<ul><li>", "<table><tr><td>", "<h2>")),
    )
    def test_no_text_is_taken_for_markup(self, text: str, before: str) -> None:
        self.assertEqual(
            words(MARKUP.to_html(MARKUP.from_html(before + text))), words(before + text)
        )

    def test_nesting_without_end_and_nothing(self) -> None:
        self.assertEqual(MARKUP.from_html(""), "")
        self.assertIn("deep", MARKUP.from_html("<div>" * 200 + "deep"))
        self.assertIn("x", MARKUP.from_html("<ul><li>" * 100 + "x"))
        self.assertEqual(
            MARKUP.from_html("<div>" * 3000 + "still // here").strip(), "still ~/~/ here"
        )
