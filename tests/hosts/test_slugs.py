"""Slugs of titles, and old slugs that stay."""

import unittest

from newburrow.hosts import slugs
from newburrow.hosts.profile import Slugs

ALL, ASCII = Slugs(letters="unicode"), Slugs(letters="ascii")


class Scripts(unittest.TestCase):
    def test_marks_of_letters_stay(self) -> None:
        for title, slug in (
            ("हिन्दी भाषा!", "हिन्दी-भाषा"),
            ("தமிழ், இன்று", "தமிழ்-இன்று"),
            ("Việt Nam", "việt-nam"),
            ("Pear ❤\ufe0f 1\ufe0f\u20e3", "pear-1"),
            ("İzmir_Apples", "izmir-apples"),
        ):
            with self.subTest(title):
                self.assertEqual(slugs.make(title, ALL), slug)
                self.assertTrue(slugs.accepted(slug, ALL))
                self.assertFalse(slugs.accepted(slug, ASCII) and not slug.isascii())
                self.assertTrue(slugs.make(title, ASCII).isascii())

    def test_an_entity_in_a_title_is_no_way_around_ascii(self) -> None:
        self.assertEqual(slugs.make("Caf&eacute; du Pressoir", ASCII), "cafe-du-pressoir")
