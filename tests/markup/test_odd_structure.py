"""HTML as it should not be, such as a link around an item of a list: no word of it is lost in any markup."""

import re
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from newburrow.core import plugins
from newburrow.markup.html import Fragment

TAGS = (
    "ul", "ol", "li", "a", "p", "dl", "dt", "dd", "div", "b", "table", "tr", "td", "h2", "caption", "thead", "details", "summary",
    "figure", "pre", "code", "blockquote",
)  # fmt: skip
PIECES = st.lists(
    st.sampled_from([f"<{tag}>" for tag in TAGS] + [f"</{tag}>" for tag in TAGS] + ["<br>", "<hr>", "<img src=x>"]),
    min_size=1,
    max_size=16,
)  # fmt: skip


def words(text: str) -> set[str]:
    return set(re.findall(r"w\d+e", Fragment(text).words()))


class OddStructure(unittest.TestCase):
    @settings(max_examples=400, deadline=None)
    @given(PIECES)
    def test_no_word_is_lost(self, pieces: list[str]) -> None:
        text = "".join(f"{piece}w{number}e " for number, piece in enumerate(pieces))
        for name in ("creole", "markdown"):
            markup = plugins.get(plugins.MARKUPS, name)
            written = markup.from_html(text)
            self.assertEqual(words(markup.to_html(written)), words(text), written)
