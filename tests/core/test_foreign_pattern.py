"""Expressions of others: an honest one is used, one that takes exponential time is found out and bounded."""

import unittest

from newburrow.core import foreign_pattern
from tests.helpers import SITE, FolderCase, item, rows, rss


class Patterns(unittest.TestCase):
    def test_those_that_take_too_long(self) -> None:
        for expression in ("^/(a|aa)+$", "^/(a|a)*$", r"^/(a|ab|b1|\w)*$"):
            self.assertTrue(foreign_pattern.is_too_slow(expression), expression)

    def test_honest_ones_and_wrong_ones(self) -> None:
        for expression in (
            r"^/(\d{4})/(\d\d)/([^/]+)/?$",
            "^/old/(.*)$",
            ".*",
            "^/a++$",
            "(",
            "*",
            r"^/([\w/.-]+)\.php$",
        ):
            self.assertFalse(foreign_pattern.is_too_slow(expression), expression)

    def test_a_search_is_bounded_and_never_fails(self) -> None:
        self.assertIsNone(foreign_pattern.search("^/(a|aa)+$", "/" + "a" * 60 + "!"))
        self.assertIsNone(foreign_pattern.search("^/(a|aa)+$", "/aa"))  # it is not tried again
        self.assertIsNone(foreign_pattern.search("(", "/a"))
        found = foreign_pattern.search(r"^/(\d+)", "/2023/x")
        self.assertEqual(found and found[1], "2023")


class OnTheRealProgram(FolderCase):
    def test_a_rule_that_takes_too_long_is_a_follow_up(self) -> None:
        self.write("feed.xml", rss(item("A", SITE + "a", "<p>x</p>")))
        self.write(
            "old.conf",
            "server {\nrewrite ^/(a|aa)+$ /a permanent;\n}\n",
        )
        self.run_ok("draft", "feed.xml", "--to", "lanternlog", "--out", "m")
        path = self.folder / "m/move.toml"
        path.write_text(path.read_text().replace("known = []", 'known = ["../old.conf"]'))
        self.run_ok("move", "m")
        said = [
            row["what"]
            for row in rows(self.folder / "m/follow-ups.csv")
            if row["kind"] == "old-rule"
        ]
        self.assertTrue(any("takes too long" in text for text in said), said)


if __name__ == "__main__":
    unittest.main()
