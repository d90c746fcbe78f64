"""Letters with marks, as words of many scripts have them."""

import re
import unittest

from hypothesis import given
from hypothesis import strategies as st

from newburrow.core import letters


class Marks(unittest.TestCase):
    def test_words_of_scripts_that_write_vowels_as_marks(self) -> None:
        for word in ("हिन्दी", "ภาษาไทย", "தமிழ்", "မြန်မာ", "שָׁלוֹם", "e\u0301clair", "plain_1"):
            with self.subTest(word):
                self.assertTrue(letters.are_words(f"{word}-{word}", r"[\w-]+"))
                self.assertEqual(letters.with_marks(r"[^\w]+").sub("", f"({word}!)"), word)

    def test_signs_that_are_no_letters(self) -> None:
        for text in (
            "a b",
            "❤\ufe0f",
            "1\ufe0f\u20e3",
            "a\u200db",
            "",
            "x/y",
            "\u0301",
            "-\u0301a",
        ):
            with self.subTest(text):
                self.assertFalse(letters.are_words(text, r"[\w-]+"))

    @given(st.text(alphabet=st.characters(max_codepoint=0x2FF), max_size=9))
    def test_without_marks_nothing_changes(self, text: str) -> None:
        pattern = r"[^\w\s-]"
        self.assertEqual(letters.with_marks(pattern).sub("", text), re.sub(pattern, "", text))
