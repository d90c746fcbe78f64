"""The words of an element that a host does not accept stay apart from their neighbours."""

import unittest

from hypothesis import given
from hypothesis import strategies as st
from selectolax.lexbor import LexborHTMLParser

from newburrow.convert.body.unwrapping import BLOCKS, take_out
from newburrow.markup.html import Fragment


def without(text: str, *allowed: str) -> str:
    fragment, accepted = Fragment(text), frozenset(allowed)
    for node in reversed([node for node in fragment.elements() if node.tag not in accepted]):
        take_out(node, accepted)
    return fragment.html()


class TakenOut(unittest.TestCase):
    def test_blocks(self) -> None:
        text = "<header>Head</header><section>Sec</section><footer>Foot</footer>"
        for allowed, expected in (
            ((), "Head Sec Foot"),
            (("br",), "Head<br>Sec<br>Foot"),
            (("p",), "<p>Head</p><p>Sec</p><p>Foot</p>"),
        ):
            self.assertEqual(without(text, *allowed), expected)

    def test_tables_lists_and_terms(self) -> None:
        table = "<table><tr><th>A</th><th>B</th></tr><tr><td>1</td><td>2</td></tr></table>"
        self.assertEqual(without(table, "p"), "<p>A B</p><p>1 2</p>")
        items = "x<ul><li>One<ul><li>in</li></ul></li><li>Two</li></ul>y"
        self.assertEqual(without(items, "br"), "x<br>One<br>in<br>Two<br>y")
        self.assertEqual(without("<dl><dt>a</dt><dd>b</dd></dl>", "p"), "<p>a</p><p>b</p>")

    def test_code_keeps_its_lines(self) -> None:
        code = "<pre>a\n  b\n\nc</pre>"
        self.assertEqual(without(code, "p", "br"), "<p>a<br>&nbsp;&nbsp;b<br><br>c</p>")
        self.assertEqual(without(code, "p"), "<p>a</p><p>&nbsp;&nbsp;b</p><p>c</p>")
        self.assertEqual(without(code), "a\n  b\n\nc")

    def test_inline_elements_leave_no_gap_and_empty_blocks_do(self) -> None:
        self.assertEqual(without("<p>a<u>b</u>c <i></i>d</p>", "p"), "<p>abc d</p>")
        self.assertEqual(without("a<div></div>b", "p"), "a b")
        self.assertEqual(without("<p>One<br>two</p>"), "One two")

    @given(st.lists(st.tuples(st.sampled_from(sorted(BLOCKS - {"body", "frameset", "tbody", "thead", "tfoot", "tr", "caption", "plaintext", "option", "optgroup", "legend"})),
                              st.integers(0, 99)), min_size=1, max_size=8), st.sets(st.sampled_from(["p", "br", "b", "ul", "li"])))  # fmt: skip
    def test_no_two_words_run_together(
        self, pieces: list[tuple[str, int]], allowed: set[str]
    ) -> None:
        text = "".join(
            f"<{tag}>w{number}</{tag}>" if tag != "hr" else f"w{number}<hr>"
            for tag, number in pieces
        )
        shown = LexborHTMLParser(without(text, *allowed)).body
        words = shown.text(separator=" ").split() if shown else []
        self.assertEqual(words, [f"w{number}" for _tag, number in pieces])
