"""Selectors that cannot match are not asked: the answer is the same."""

import unittest

from hypothesis import given
from hypothesis import strategies as st
from selectolax.lexbor import LexborHTMLParser

from newburrow.formats.html.needed_words import can_match, needed_words

NAMES = st.sampled_from(("a", "Aa", "page-text", "x", "lang"))
PARTS = st.one_of(
    NAMES.map(lambda name: f".{name}"),
    NAMES.map(lambda name: f"#{name}"),
    NAMES.map(lambda name: f"[{name}]"),
    st.tuples(NAMES, st.sampled_from(("=", "~=", "^=", "*=")), NAMES).map(lambda of: f'[{of[0]}{of[1]}"{of[2]}" i]'),
    st.sampled_from(("p", "*", "p:not(.a)", "p:first-child")),
)  # fmt: skip
SELECTORS = st.lists(
    st.lists(PARTS, min_size=1, max_size=2).map(" ".join), min_size=1, max_size=3
).map(",".join)
ELEMENTS = st.tuples(NAMES, NAMES, NAMES).map(
    lambda names: (
        f'<p class="{names[0]} y" ID={names[1]} {names[2]}="x A"><b class={names[0]}></b></p>'
    )
)


class Needed(unittest.TestCase):
    """Of any selector and page."""

    @given(SELECTORS, st.lists(ELEMENTS, max_size=3).map("".join), st.booleans())
    def test_nothing_that_matches_is_missed(self, css: str, body: str, strict: bool) -> None:
        page = ("<!DOCTYPE html>" if strict else "") + body
        if LexborHTMLParser(page).css(css):
            self.assertTrue(can_match(css, page.lower()))

    def test_what_is_looked_for(self) -> None:
        self.assertEqual(needed_words('nav .Trail a[rel~="up"]'), (("trail", "rel", "up"),))
        self.assertEqual(needed_words(".a,p"), ())
        self.assertEqual(needed_words("p:not(.a)"), ())
        self.assertFalse(can_match(".a-class", "<p class=b>"))
        self.assertTrue(can_match(".a-class", "<p class='a&#45;class'>"))
