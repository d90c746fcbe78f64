"""Two ways of getting the same content, compared."""

import json
import unittest

from tests.helpers import SITE, FolderCase, item, rss

DATED = "<pubDate>Thu, 14 Oct 2021 15:00:00 GMT</pubDate>"


class Compared(FolderCase):
    def compared(self) -> dict:  # type: ignore[type-arg]
        return json.loads(self.run_ok("survey", "feed.xml", "--against", "full.xml", "--json"))  # type: ignore[no-any-return]

    def test_what_only_one_has_and_what_differs(self) -> None:
        self.write("feed.xml", rss(
            item("Same", SITE + "same", "<p>Words.</p>", DATED),
            item("Cut", SITE + "cut", "<p>The first words …</p>", DATED),
            item("Moved", SITE + "there", "<p>Here.</p>", DATED),
            item("New", SITE + "new", "<p>New.</p>"),
        ))  # fmt: skip
        self.write("full.xml", rss(
            item("Same", SITE + "same", "<p>Words.</p>", DATED),
            item("Cut", SITE + "cut", "<p>The first words and all others. <a href='/same'>Same</a></p>", DATED),
            item("Moved", SITE + "elsewhere", "<p>Here.</p>", DATED),
            item("Old", SITE + "old", "<p>Old.</p>"), item("Older", SITE + "older", "<p>Older.</p>"),
        ))  # fmt: skip
        found = self.compared()
        self.assertEqual(
            (found["same"], found["differ"], found["only_first"], found["only_second"]),
            (1, 2, 1, 2),
        )
        self.assertEqual(found["facts"], {"words": 1, "links": 1, "address": 1})
        self.assertEqual(found["in_first"], [{"title": "New", "address": SITE + "new"}])
        self.assertEqual([name["title"] for name in found["in_second"]], ["Old", "Older"])
        told = self.run_ok("survey", "feed.xml", "--against", "full.xml")
        for words in (
            "In both: 1 the same, 2 different.",
            "The second is fuller.",
            "newburrow draft feed.xml full.xml --to HOST",
        ):
            self.assertIn(words, told)

    def test_what_cannot_be_read(self) -> None:
        self.write("feed.xml", rss(item("A", SITE + "a")))
        self.assertIn(
            "There is no file or folder 'ful.xml'",
            self.refused("survey", "feed.xml", "--against", "ful.xml"),
        )


if __name__ == "__main__":
    unittest.main()
