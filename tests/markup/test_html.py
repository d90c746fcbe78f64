import re
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from newburrow.markup.html import (
    DEEPEST,
    Fragment,
    TooDeep,
    deeper_than,
    flattened,
    replace,
    with_few_attributes,
)
from newburrow.markup.html_tags import WHOLE_TAG
from newburrow.markup.plain_text import MARKUP as TEXT

PIECES = st.lists(
    st.sampled_from(["<p>", "</p>", "<b>", "</b>", "<div>", "</div>", "<table>", "<td>", "</table>", "<li>", "<ul>", "</ul>", "<br/>",
                     "word ", "&amp; ", "&mdash;", "<pre>\n\ncode", "</pre>", "<!--more-->", "<a href='x'>", "</a>", "<select>"]),
    max_size=14,
).map("".join)  # fmt: skip


def words(text: str) -> str:
    """What a reader sees of an HTML text, the spaces aside."""
    return " ".join(
        re.sub(r"<!--.*?-->|<[^>]*>", " ", Fragment(text).html(), flags=re.DOTALL).split()
    )


class Fragments(unittest.TestCase):
    def test_the_standards_algorithm(self) -> None:
        for text, html in (
            ("<p>a<p>b", "<p>a</p><p>b</p>"),
            ("<b>x<i>y</b>z</i>", "<b>x<i>y</i></b><i>z</i>"),
            ("<table><tr><td>a</table>", "<table><tbody><tr><td>a</td></tr></tbody></table>"),
            ("a &mdash; b<br/><!--more-->", "a — b<br><!--more-->"),
            ("", ""),
        ):
            self.assertEqual(Fragment(text).html(), html)

    def test_a_newline_at_the_start_of_code_is_not_eaten(self) -> None:
        for text in (
            "<pre>\n\ncode</pre>",
            "<textarea>\n\nx</textarea>",
            "<pre>code</pre>",
            "<pre><code>\nx</code></pre>",
        ):
            once = Fragment(text).html()
            self.assertEqual(Fragment(once).html(), once)
        self.assertEqual(Fragment("<pre>\n\ncode</pre>").html(), "<pre>\n\ncode</pre>")

    @given(PIECES)
    def test_what_was_written_back_stays_as_it_is(self, text: str) -> None:
        once = Fragment(text).html()
        self.assertEqual(words(once), words(text))

    def test_changing(self) -> None:
        fragment = Fragment("<p>a<i>b</i></p>")
        replace(fragment.select("i")[0], "<b>c</b>")
        fragment.prepend("<hr>")
        self.assertEqual(fragment.html(), "<hr><p>a<b>c</b></p>")
        empty = Fragment("")
        empty.prepend("<hr>")
        self.assertEqual(empty.html(), "<hr>")


class Depth(unittest.TestCase):
    def test_beyond_reason_is_not_parsed(self) -> None:
        for text in ("<div>" * 100_000, "<b>" * 1000, ("<div></x>") * 1000, "<i><div>" * 400):
            with self.assertRaises(TooDeep):
                Fragment(text)

    @given(
        st.lists(
            st.sampled_from(["<b>", "</b>", "<", "<x ", 'a="', '">', "<p", ">", "/", "<div a='<i>'>", "w", "<!--", "</", "br>"])
        ),
        st.integers(1, 4),
    )  # fmt: skip
    def test_flattened_is_not_deep(self, pieces: list[str], most: int) -> None:
        text = "".join(pieces)
        flat = flattened(text, most)
        self.assertFalse(deeper_than(flat, most))
        self.assertEqual(flat.count("w"), text.count("w"))

    def test_flattened_drops_only_what_is_deep(self) -> None:
        text = "<div><b>a</b><i><u>b</u></i></div><p><img><b>c</b>"
        self.assertEqual(flattened(text, 3), text)
        self.assertEqual(flattened(text, 2), "<div><b>a</b><i>b</i></div><p><img><b>c</b>")

    def test_long_is_not_deep(self) -> None:
        for text in (
            "<p>a</p>" * 5000,
            "<p>a" * 5000,
            "<br>" * 5000,
            "<ul>" + "<li>a" * 5000,
            "<div><span>a</span></div>" * 5000,
        ):
            self.assertFalse(deeper_than(text, DEEPEST), text[:20])
            Fragment(text)


class PlainText(unittest.TestCase):
    def test_paragraphs_and_lines(self) -> None:
        self.assertEqual(
            TEXT.to_html("a < b\r\nc\n\n  \nd & <script>"),
            "<p>a &lt; b<br>c</p><p>d &amp; &lt;script&gt;</p>",
        )
        self.assertEqual(TEXT.to_html("  \n "), "")

    @given(st.text(max_size=60))
    def test_nothing_in_a_text_is_markup(self, text: str) -> None:
        found = {node.tag for node in Fragment(TEXT.to_html(text)).elements()}
        self.assertLessEqual(found, {"p", "br"})


class Tags(unittest.TestCase):
    """Tags as the standard's tokenizer sees them."""

    @settings(max_examples=500)
    @given(st.text("\"'= /x>y\t", max_size=14))
    def test_where_a_tag_ends(self, attributes: str) -> None:
        text = f"<p {attributes}"
        found = WHOLE_TAG.match(text)
        assert found is not None
        behind = text[found.end() :] if found[0].endswith(">") else ""
        self.assertEqual(Fragment(text).words(), behind)

    def test_a_quote_in_the_wrong_place_swallows_nothing(self) -> None:
        text = '<h2 id="a"">A</h2>' + "<p>some words here</p>" * 2000 + '<p class="b">z</p>'
        self.assertEqual(with_few_attributes(text), (text, []))
        self.assertEqual(Fragment(text).cut, [])

    def test_tags_of_drawings_close_themselves(self) -> None:
        leaves = "<path d='M0>'/><circle r=1 />" * 2000
        for text, is_deep in (
            (f"<svg>{leaves}</svg>", False),
            (f"<SVG><title>Words</title><g>{leaves}</g></SVG>", False),
            (f"<svg><g>{'<g>' * 600}", True),
            (f"<svg><p>{leaves}", True),
            (f"<svg><foreignObject>{leaves}", True),
            (f"<svg><title><b></title>{leaves}", True),
            (f"<svg/>{leaves}", True),
            (leaves, True),
        ):
            self.assertEqual(deeper_than(text, DEEPEST), is_deep, text[:40])
            self.assertFalse(deeper_than(flattened(text), DEEPEST))
