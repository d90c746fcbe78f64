"""The ids that hosts give to headings."""

import unittest

from newburrow.markup import heading_ids
from newburrow.markup.html import Fragment

TEXT = "<h2>Winter cuts</h2><h3>Winter cuts!</h3><h2 id='own'>Winter cuts</h2><h4>Äpfel &amp; Birnen</h4><h2>…</h2>"


class HeadingIds(unittest.TestCase):
    def test_each_heading_gets_one_of_its_words_and_the_second_of_the_same_a_number(
        self,
    ) -> None:
        fragment = Fragment(TEXT)
        heading_ids.give(fragment)
        found = [node.attributes.get("id") for node in fragment.select("h2,h3,h4")]
        self.assertEqual(found, ["winter-cuts", "winter-cuts-1", "own", "äpfel-birnen", None])

    def test_those_that_the_host_gives_are_left_out_and_no_other(self) -> None:
        fragment = Fragment(TEXT)
        heading_ids.give(fragment)
        heading_ids.leave_out(fragment)
        found = [node.attributes.get("id") for node in fragment.select("h2,h3,h4")]
        self.assertEqual(found, [None, None, "own", None, None])


if __name__ == "__main__":
    unittest.main()
