import unittest
from datetime import UTC, datetime

from newburrow.assess.permalinks import fits, id_for, pattern_of
from newburrow.assess.term_likeness import alike
from newburrow.model import Entry
from tests.helpers import SITE

AT = datetime(2023, 5, 6, tzinfo=UTC)


class Patterns(unittest.TestCase):
    def test_what_is_known_of_an_entry_is_replaced_once(self) -> None:
        for path, pattern in (
            ("2023/05/06/bud/", "/{year}/{month}/{day}/{slug}/"),
            ("2023/05/bud.html", "/{year}/{month}/{slug}.html"),
            ("?entry=35", "/?entry={id}"),
            ("index.php?id=35&view=x", "/index.php?id={id}&view=x"),
            ("item/35", "/item/{id}"),
            ("trees/bud/", "/trees/{slug}/"),
            ("2022/bud", "/2022/{slug}"),
            ("", "/"),
        ):
            self.assertEqual(
                pattern_of(Entry(key="35", slug="bud", permalink=SITE + path), AT),
                pattern,
                path,
            )
        self.assertEqual(
            pattern_of(Entry(key="35", slug="caf\u00e9", permalink=SITE + "caf%C3%A9/"), None),
            "/{slug}/",
        )
        self.assertEqual(pattern_of(Entry(key="35"), AT), "")


class Likeness(unittest.TestCase):
    def test_names_that_look_like_one(self) -> None:
        names = [
            "Grafting",
            "grafting ",
            "graftng",
            "Owls",
            "owl s",
            "Pruning 2021",
            "Pruning 2022",
            "Caf\u00e9s",
            "cafes",
            "cat",
            "car",
        ]
        self.assertEqual(
            list(alike(names)),
            [
                ("Grafting", "grafting "),
                ("Owls", "owl s"),
                ("Caf\u00e9s", "cafes"),
                ("Grafting", "graftng"),
            ],
        )


class Places(unittest.TestCase):
    """Ids that are the places of files, as pages without a dialect have them."""

    def test_they_are_paths_and_no_names(self) -> None:
        for key, path, wanted in (
            ("a/b/pear.html", "/a/b/pear.html", "/{+id}"),
            ("pear.html", "/guide/pear.html", "/guide/{+id}"),
            ("a/index.html", "/a/", "/{+id}"),
            ("a/pear.html", "/pears/1", "/pears/1"),
            ("1017", "/pears/1017", "/pears/{id}"),
        ):
            entry = Entry(key=key, permalink=f"https://a.example{path}", slug="x")
            self.assertEqual(pattern_of(entry, None), wanted)
            if "{" in wanted:
                self.assertTrue(fits(wanted, entry, None), key)

    def test_no_server_is_sent_an_encoded_slash(self) -> None:
        self.assertEqual(id_for("/{id}", "a/b"), "a-b")
        self.assertEqual(id_for("/{+id}", "a/b?c"), "a/b-c")
        self.assertEqual(id_for("/{+id}", "index.html"), "index.html")
