"""Rules are right for addresses that nobody listed: learnt from half of a site, asked for the other half."""

import random
import unittest
from collections.abc import Callable

from newburrow.core import url
from newburrow.redirects.rules import rule_answers
from newburrow.redirects.rules.redirect_rule import subject_on
from newburrow.store.journal.rows import REDIRECTED, OldAddress
from tests.helpers import SITE
from tests.redirects.server import map_of

NEW = "https://new.example/"
WORDS = [
    "apple",
    "press",
    "hive",
    "bee",
    "owl",
    "graft",
    "scion",
    "cider",
    "frost",
    "bloom",
    "root",
    "soil",
    "ladder",
    "barn",
    "swarm",
    "pear",
]
Shape = Callable[[random.Random, int], tuple[str, str]]


def slug(chance: random.Random) -> str:
    return "-".join(chance.choices(WORDS, k=chance.randint(2, 4)))


def dated(chance: random.Random, n: int) -> tuple[str, str]:
    name, day = (
        slug(chance) + f"-{n}x",
        (chance.randint(2006, 2024), chance.randint(1, 12), chance.randint(1, 28)),
    )
    return "{}/{:02}/{:02}/".format(*day) + f"{name}/", f"{day[0]}/{day[1]:02}/{name}.html"


def id_first(chance: random.Random, n: int) -> tuple[str, str]:
    name = slug(chance) + f"-x{n}"
    return f"{n}-{name}", f"posts/{name}"


def id_last(chance: random.Random, n: int) -> tuple[str, str]:
    name = slug(chance)
    return f"{name}-{n}.html", f"p/{n}/{name}/"


def numbered(_chance: random.Random, n: int) -> tuple[str, str]:
    return f"post{n}.html", f"x/{n}"


def by_parameter(_chance: random.Random, n: int) -> tuple[str, str]:
    return f"index.php?no={n}", f"x/{n}"


def underscores(chance: random.Random, n: int) -> tuple[str, str]:
    name = [*chance.choices(WORDS, k=2), f"x{n}"]
    return "_".join(name) + ".html", "-".join(name)


def language(chance: random.Random, n: int) -> tuple[str, str]:
    name = f"{slug(chance)}-y{n}"
    return f"de/{name}.php", f"{name}/"


def category_out(chance: random.Random, n: int) -> tuple[str, str]:
    name = f"{slug(chance)}-z{n}"
    return f"{chance.choice(WORDS)}/{name}.html", f"{name}"


def category_in(chance: random.Random, n: int) -> tuple[str, str]:
    name = f"{slug(chance)}-z{n}"
    return f"blog/{name}", f"{chance.choice(WORDS)}/{name}"


def new_ids(chance: random.Random, n: int) -> tuple[str, str]:
    return f"item/{n}", f"thing/{chance.randint(1, 10**6)}"


def mostly_dropped_day(chance: random.Random, n: int) -> tuple[str, str]:
    old, new = dated(chance, n)
    return old, new if chance.random() < 0.9 else f"other/{n}"


RULED = (dated, id_first, id_last, numbered, by_parameter, underscores, language, category_out)
NOT_RULED = (category_in, new_ids, mostly_dropped_day)


class HeldBack(unittest.TestCase):
    def split(
        self, *shapes: Shape, count: int = 120
    ) -> tuple[list[OldAddress], list[OldAddress]]:
        chance = random.Random(" ".join(shape.__name__ for shape in shapes))
        pairs = {
            SITE + old: NEW + new
            for shape in shapes
            for n in range(1, count)
            for old, new in [shape(chance, n)]
        }
        rows = [OldAddress.of(old, new, REDIRECTED, "") for old, new in pairs.items()]
        chance.shuffle(rows)
        return rows[::2], rows[1::2]

    def asked(self, learnt: list[OldAddress], held: list[OldAddress]) -> tuple[int, int]:
        """How many held-back addresses the rules answer rightly, and how many wrongly."""
        redirects = map_of(learnt)
        ask = rule_answers.first_answer(redirects.rules)
        right = wrong = 0
        for row in held:
            subject = subject_on(redirects.site, url.key(row.old))
            answer = ask(subject)[0] if subject else ""
            right += answer == row.new
            wrong += answer not in ("", row.new)
        return right, wrong

    def test_each_shape_by_itself(self) -> None:
        for shape in RULED:
            with self.subTest(shape.__name__):
                learnt, held = self.split(shape)
                self.assertEqual(self.asked(learnt, held), (len(held), 0))

    def test_what_has_no_rule_gets_no_answer(self) -> None:
        for shape in NOT_RULED:
            with self.subTest(shape.__name__):
                right, wrong = self.asked(*self.split(shape))
                self.assertLessEqual(wrong, 0.01 * (right + wrong))

    def test_all_of_them_on_one_site(self) -> None:
        learnt, held = self.split(*RULED, *NOT_RULED)
        right, wrong = self.asked(learnt, held)
        self.assertLessEqual(wrong, 0.01 * right)
        self.assertGreater(right, 0.6 * len(held))
