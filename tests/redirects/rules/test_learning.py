"""Rules learnt from answers: what they and the exceptions say is what the answers say, whatever these are."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from newburrow.core import url
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules import rule_answers
from newburrow.redirects.rules.redirect_rule import subject_on
from newburrow.redirects.rules.rule_words import in_words
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from tests.helpers import SITE
from tests.redirects.server import map_of

WORDS = (
    "news",
    "blog",
    "owl",
    "pear-tree",
    "2019",
    "2023",
    "05",
    "06",
    "31",
    "7",
    "a.b",
    "Owl",
    "w",
    "Pear-Tree",
    "Tree3_X",
    "index.html",
    "x.php",
    "é",
    "%2F",
    "",
)


def told(redirects: RedirectMap, old: str) -> tuple[int, str]:
    """Status and new address that the exceptions, and after them the rules, give."""
    exact = {url.key(row.old): row for row in redirects.exact()}
    if row := exact.get(url.key(old)):
        return row.status, row.new if row.status == REDIRECTED else ""
    path = subject_on(redirects.site, url.key(old))
    answer = rule_answers.first_answer(redirects.rules)(path)[0] if path else ""
    return (REDIRECTED, answer) if answer else (UNCHANGED, "")


def old_and_new() -> st.SearchStrategy[tuple[str, str]]:
    path = st.lists(st.sampled_from(WORDS), min_size=1, max_size=4).map("/".join)
    return st.tuples(path, st.one_of(path, st.just("-"), st.just("=")))


class Exactly(unittest.TestCase):
    @given(
        st.lists(old_and_new(), max_size=40),
        st.sampled_from((SITE, "https://new.example/")),
        st.booleans(),
        st.booleans(),
    )
    @settings(max_examples=200)
    def test_every_answer_is_that_of_the_map(
        self, pairs: list[tuple[str, str]], new_site: str, dated: bool, capital: bool
    ) -> None:
        rows: dict[str, OldAddress] = {}
        if dated:
            pairs += [
                (f"2023/05/{n:02}/post-{n}/", f"2023/05/post-{n}.html") for n in range(1, 12)
            ]
        if capital:
            pairs += [(f"w/Tree{n}_X", f"names/tree{n}-x/") for n in range(1, 12)]
        for old, new in pairs:
            status = GONE if new == "-" else UNCHANGED if new == "=" else REDIRECTED
            target = "" if new == "-" else SITE + old if new == "=" else new_site + new
            if url.key(target) == url.key(SITE + old):
                status, target = UNCHANGED, SITE + old
            rows.setdefault(url.key(SITE + old), OldAddress.of(SITE + old, target, status, ""))
        # An address of the new site that is an old one too is that page.
        pages = {url.key(row.new) for row in rows.values() if row.new}
        kept = [row for key, row in rows.items() if row.status == UNCHANGED or key not in pages]
        plain = map_of(kept)
        for redirects in (plain, plain.lowering()):
            for row in kept:
                self.assertEqual(
                    told(redirects, row.old),
                    (row.status, row.new if row.status == REDIRECTED else ""),
                    row,
                )
                if row.status == REDIRECTED and row.new.startswith(SITE):
                    self.assertEqual(told(redirects, row.new)[0], UNCHANGED, row)
        self.assertFalse(any(rule.lowers for rule in plain.rules))
        if dated:
            self.assertTrue(plain.rules)
        if capital and not pairs[:-11]:
            self.assertEqual([rule.lowers for rule in plain.lowering().rules], [True])


class Learnt(unittest.TestCase):
    def rules(self, *pairs: tuple[str, str], count: int = 30) -> list[tuple[str, str, str]]:
        rows = [
            OldAddress.of(SITE + old.format(n=n, d=n % 28 + 1, m=n % 12 + 1), "https://new.example/" + new.format(n=n, d=n % 28 + 1, m=n % 12 + 1), REDIRECTED, "")
            for old, new in pairs for n in range(count)
        ]  # fmt: skip
        redirects = map_of(rows)
        self.assertLessEqual(len(list(redirects.exact())), len(rows) // 10)
        return [
            (rule.old_pattern(), rule.new_pattern(), in_words(rule)) for rule in redirects.rules
        ]

    def test_what_practitioners_do_by_hand(self) -> None:
        for old, new, wanted in (
            ("2023/{m:02}/{d:02}/p-{n}/", "2023/{m:02}/p-{n}/", ("/{year}/{month}/{day}/{name}/", "/{year}/{month}/{name}/",
                                                                  "the day is dropped from the date")),
            ("2023/{m:02}/{d:02}/p-{n}/", "p-{n}.html", ("/{year}/{month}/{day}/{name}/", "/{name}.html",
                                                         "the year and the month and the day are dropped from the date, .html is added")),
            ("p-{n}.php", "p-{n}/", ("/{name}.php", "/{name}/", ".php is dropped")),
            ("blog/p-{n}", "articles/p-{n}", ("/blog/{name}/", "/articles/{name}", "“blog” becomes “articles”")),
            ("p-{n}/2023", "2023/p-{n}", ("/{name}/{year}/", "/{year}/{name}", "the parts change their order")),
            ("p-{n}/", "p-{n}/", ("/{path}/", "/{path}", "the path stays, the host changes")),
        ):  # fmt: skip
            self.assertEqual(self.rules((old, new)), [wanted])

    def test_few_rules_for_many_addresses_and_the_strict_one_before_the_loose(self) -> None:
        found = self.rules(
            ("2023/{m:02}/{d:02}/p-{n}/", "2023/p-{n}.html"),
            ("blog/q-{n}", "articles/q-{n}/"),
            ("cider/r-{n}.php", "p/r-{n}.html"),
        )
        self.assertEqual(
            [old for old, _new, _words in found],
            ["/blog/{name}/", "/cider/{name}.php", "/{year}/{month}/{day}/{name}/"],
        )

    def test_a_new_host_alone_is_one_rule_and_what_changes_more_stands_before_it(self) -> None:
        kept = [
            ("p-{n}/", "p-{n}/"),
            ("2023/{m:02}/q-{n}/", "2023/{m:02}/q-{n}/"),
            ("files/a/b-{n}.png", "files/a/b-{n}.png"),
        ]
        self.assertEqual([old for old, _new, _words in self.rules(*kept)], ["/{path}/"])
        found = self.rules(
            *kept, ("blog/r-{n}/", "articles/r-{n}.html"), ("tag/t-{n}/", "tag/t-{n}/")
        )
        self.assertEqual([old for old, _new, _words in found], ["/blog/{name}/", "/{path}/"])

    def test_what_nothing_is_like_is_listed(self) -> None:
        rows = [
            OldAddress.of(f"{SITE}a{n}/", f"https://new.example/z{n * n}/", REDIRECTED, "")
            for n in range(20)
        ]
        redirects = map_of(rows)
        self.assertEqual((redirects.rules, list(redirects.exact())), ((), rows))
        self.assertEqual(list(map_of(()).exact()), [])
