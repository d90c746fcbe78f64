"""When a rule is worth its line, and which rules are candidates for one redirect."""

import unittest

from newburrow.redirects.rules.redirect_rule import candidate_rules
from newburrow.store.journal.rows import OldAddress
from tests.helpers import SITE
from tests.redirects.server import map_of


def learnt(count: int, wrong: int = 0) -> list[str]:
    """The rules for so many redirects from /blog/ to /articles/, of which some go elsewhere."""
    rows = [
        OldAddress.of(
            f"{SITE}blog/p-{n}",
            f"https://new.example/articles/{'x' if n < wrong else ''}p-{n}",
            301,
            "",
        )
        for n in range(count)
    ]
    return [rule.old_pattern() for rule in map_of(rows).rules]


class Worth(unittest.TestCase):
    def test_more_than_three_addresses(self) -> None:
        self.assertEqual(learnt(3), [])
        self.assertEqual(learnt(4), ["/blog/{name}/"])

    def test_nearly_all_that_it_answers_is_right(self) -> None:
        for count, wrong, worth in (
            (30, 0, True), (30, 1, False), (31, 1, True), (31, 2, False), (400, 4, True), (400, 5, False),
        ):  # fmt: skip
            with self.subTest(count=count, wrong=wrong):
                self.assertEqual(bool(learnt(count, wrong)), worth)


class Candidates(unittest.TestCase):
    def found(self, path: str, new: str, **frequent: int) -> list[tuple[str, str]]:
        return [
            (rule.old_pattern(), rule.new_pattern())
            for rule in candidate_rules(path, f"https://new.example{new}", frequent)
        ]

    def test_frequent_words_both_ways_and_dates_by_their_place(self) -> None:
        self.assertEqual(
            self.found("/blog/2023/05/owls.html", "/articles/owls/", blog=9, articles=3),
            [
                ("/blog/{year}/{month}/{name}.html", "/articles/{name}/"),
                ("/{name}/{year}/{month}/{name}.html", "/articles/{name}/"),
            ],
        )
        self.assertEqual(
            self.found("/a/b/c", "/c/x/a", a=5, b=4),
            [("/a/b/{name}/", "/{name}/x/a"), ("/a/{name}/{name}/", "/{name}/x/a"),
             ("/{name}/b/{name}/", "/{name}/x/{name}"), ("/{name}/{name}/{name}/", "/{name}/x/{name}")],
        )  # fmt: skip

    def test_none_for_a_new_address_with_a_query_or_fragment(self) -> None:
        for new in ("/a?x=1", "/a#b"):
            self.assertEqual(self.found("/blog/p-1", new), [])
        self.assertEqual(self.found("/blog/p", "/a"), [("/{name}/{name}/", "/a")])
