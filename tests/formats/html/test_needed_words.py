"""Words that a page must have for a selector to find anything, against the parser itself."""

import unittest

from hypothesis import given
from hypothesis import strategies as st
from selectolax.lexbor import LexborHTMLParser

from newburrow.formats.html.needed_words import PageWords, needed_words

# Spellings of names, with what the parser makes of them.
NAMES = st.sampled_from(
    ["a", "A", "label", "LABEL", "og:url", "up", "&#117;p", "&#x75;p", "fjord", "&fjlig;ord", "crumb-list", "x_y", "é",
     "ké&eacute;", "K", "\u212a", "two&Tab;names", "&amp;up"]
)  # fmt: skip
ATTRIBUTES = st.sampled_from(["class", "CLASS", "id", "rel", "Data-Kind", "property"])
TAGS = st.sampled_from(["a", "p", "meta", "DIV", "image", "td", "/p", "table"])


@st.composite
def elements(draw: st.DrawFn) -> str:
    pairs = "".join(
        f" {draw(ATTRIBUTES)}={draw(st.sampled_from(['', chr(34)]))}{draw(NAMES)}"
        if draw(st.booleans())
        else f' {draw(ATTRIBUTES)}="{draw(NAMES)} {draw(NAMES)}"'
        for _ in range(draw(st.integers(0, 3)))
    )
    return f"<{draw(TAGS)}{pairs}>{draw(st.sampled_from(['', 'x', '</p>', '&#117;']))}"


SELECTORS = st.sampled_from(
    [".a", "p.label", "#up", "[rel~=up]", '[rel~="UP" i]', "[data-kind]", 'meta[property="og:url"]', ".fjord", "[class*=ord]",
     "#fjord", "div.crumb-list a", ".é", ".ké", "[id^='up']", ".x_y", ":not(.a)", "a,.up", "[class='two names']",
     "p, td", "td a.a", "image,img", "tr,tbody>tr", "a:first-child", "p.x_y", "div > a, .up", "A.label", ".k", ".\u212a", "img.a", "*", '[class="a.b"]', "[rel=\"a,b\"], p"]
)  # fmt: skip


class NeededWords(unittest.TestCase):
    @given(st.lists(elements(), min_size=1, max_size=6), SELECTORS)
    def test_a_page_in_which_something_is_found_has_them(
        self, tags: list[str], css: str
    ) -> None:
        page = "".join(tags)
        parsed = LexborHTMLParser(page)
        found = [node.mem_id for node in parsed.css(css)]
        possible = PageWords(page.encode().lower()).possible(css)
        self.assertEqual(
            [node.mem_id for node in parsed.css(possible)] if possible else [], found, page
        )

    def test_they_are_of_classes_ids_and_attributes(self) -> None:
        self.assertEqual(
            [
                words
                for _css, words in needed_words(
                    'ul.labels>A[rel=tag], meta[property="og:url"], p'
                )
            ],
            [
                (b"labels", b"<ul", b"rel", b"tag", b"<a"),
                (b"property", b"<meta", b"url", b"og"),
                (),
            ],
        )
        self.assertEqual(needed_words(":not(.a)"), ((":not(.a)", ()),))

    def test_a_page_without_them_is_not_searched(self) -> None:
        page = PageWords(b'<p class="remark">By <a rel="tag">pear</a> &#8212; &#160;</p>')
        self.assertTrue(page.allow(".remark a[rel=tag]"))
        self.assertFalse(page.allow(".byline"))
        self.assertFalse(page.allow("[itemprop],.byline"))
        self.assertEqual(page.possible("time,.remark,nav .x_y,p.remark"), ".remark,p.remark")


if __name__ == "__main__":
    unittest.main()
