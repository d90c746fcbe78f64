"""HTML to Creole 1.0 and back."""

import unittest
from html import escape

from hypothesis import given
from hypothesis import strategies as st

from newburrow.markup.creole import MARKUP
from newburrow.markup.html import Fragment

CASES = (
    ("<p>a <b>bold <i>it</i></b> x</p>", "a **bold //it//** x"),
    ("<p>line<br>two</p>", "line\\\\two"),
    ("<ul><li>one<ul><li>two</li></ul></li></ul><ol><li>x</li></ol>", "* one\n** two\n\n# x"),
    (
        '<ul>text<a id="x"><li>one</li></a><li><a id="x"><p>two</p></a></li><b>too</b></ul>',
        "* text\n* one\n* two\n* **too**",
    ),
    ('<dl>w<a id="q"><dt>t</dt></a><dd>m</dd><span>s</span></dl>', "w\n\n; t\n: m\n: s"),
    ("<ul><ul><li>q</li></ul><li>r<ol><li>s</li></ol></li></ul>", "* q\n* r\n*# s"),
    ("<dl><dd></dd><dt>t</dt><dd>m</dd></dl>", "; t\n: m"),
    (
        "<dl><dd>first</dd><dt>t</dt><dd>m<ul><li>x</li></ul></dd><dd>* y</dd></dl>",
        "first\n\n; t\n: m\n\n* x\n\n~* y",
    ),
    (
        "<dl><dt>a</dt><dd>b</dd><dt><ul><li>x</li></ul></dt><dd>q</dd></dl>",
        "; a\n: b\n\n* x\n\nq",
    ),
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
    (
        "<p>at https://a.example/<i>pear</i> or https://a.example/ <i>pear</i></p>",
        "at https:~/~/a.example~///pear// or ~https://a.example/ //pear//",
    ),
    ("<p>{<code>x</code>} ~{<code>y</code></p>", "~{##x##} ~~~{##y##"),
)


_SIGNS = st.text(alphabet="{}[]~|*/#,_^ax ", max_size=4) | st.sampled_from(
    ("https://a.example/", "(http://a.example/b_c", "ftp://a.example/,")
)
_AROUND = (
    "X",
    "<code>X</code>",
    "<b>X</b>",
    "<i>X</i>",
    "<sub>X</sub>",
    "<u>X</u>",
    "<code>a<i>X</i></code>",
    '<a href="/x">X</a>',
    '<img src="/a.png" alt="X">',
)
_BLOCKS = (
    "<p>X</p>",
    "<table><tr><td>X</td></tr></table>",
    "<ul><li>X</li></ul>",
    "<h2>X</h2>",
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

    def test_a_link_around_blocks_stands_in_each_of_them(self) -> None:
        for text, wanted in (
            ('<a href="/x" id="i"><h1>One</h1></a><a href="/y"><h2>Two</h2></a>', "= [[/x|One]] =\n\n== [[/y|Two]] =="),
            ('<a href="/x"><img src="p.png" alt="p"><p>a <b>b</b></p>c</a>', "[[/x|{{p.png|p}}]]\n\n[[/x|a **b**]]\n\n[[/x|c]]"),
            ('<a href="/x"><ul><li>one<ul><li>two</li></ul></li></ul></a>', "* [[/x|one]]\n** [[/x|two]]"),
            ('<a href="/x"><table><tr><td>a</td><td>b</td></tr></table></a>', "|[[/x|a]]|[[/x|b]]|"),
            ('<a href="/x">a <b>b</b></a>', "[[/x|a **b**]]"),
        ):  # fmt: skip
            self.assertEqual(MARKUP.from_html(text), wanted + "\n")

    def test_what_lies_in_a_cell_is_kept_apart(self) -> None:
        for inner in (
            "<ul><li>a<div>b</div></li><li>c</li></ul>",
            "<dl><dt>a</dt><dd>b</dd></dl>c",
        ):
            made = MARKUP.from_html(f"<table><tr><td>{inner}</td><td>d</td></tr></table>")
            self.assertEqual(made, r"|a\\b\\c|d|" + "\n")

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

    @given(
        st.lists(st.tuples(_SIGNS, st.sampled_from(_AROUND)), max_size=4),
        st.sampled_from(_BLOCKS),
    )
    def test_no_sign_beside_markup_is_taken_for_it(
        self, pieces: list[tuple[str, str]], around: str
    ) -> None:
        inner = "".join(form.replace("X", escape(text)) for text, form in pieces)
        html = around.replace("X", inner)
        made = MARKUP.from_html(html)
        self.assertEqual(words(MARKUP.to_html(made)), words(html), made)

    def test_nesting_without_end_and_nothing(self) -> None:
        self.assertEqual(MARKUP.from_html(""), "")
        self.assertIn("deep", MARKUP.from_html("<div>" * 200 + "deep"))
        self.assertIn("x", MARKUP.from_html("<ul><li>" * 100 + "x"))
        self.assertEqual(
            MARKUP.from_html("<div>" * 3000 + "still // here").strip(), "still ~/~/ here"
        )
