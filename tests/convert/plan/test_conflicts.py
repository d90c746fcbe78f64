"""Old addresses that two things claim, settings of the site, and links to comments."""

from datetime import UTC, datetime

from msgspec.structs import replace

from newburrow.decide.decisions import AuthorChoice
from newburrow.dialects.schema import Addresses
from newburrow.model import Author, Comment, Entry
from tests.convert.cases import DIALECT, HOST, MoveCase
from tests.helpers import SITE

AT = datetime(2023, 5, 6, 8, tzinfo=UTC)


def post(key: str, slug: str, *addresses: str, **more: object) -> Entry:
    return Entry(
        key=key, slug=slug, title=slug, published=AT, permalink=f"{SITE}{key}/", addresses=addresses, **more  # type: ignore[arg-type]
    )  # fmt: skip


class Conflicts(MoveCase):
    def conflicts(self, *entries: Entry) -> list[str]:
        self.setUp()
        self.converted(*entries)
        return [
            row[5] for row in self.journal.follow_ups.rows() if row[0] == "address-conflict"
        ]

    def test_two_meanings_are_said_and_one_meaning_is_not(self) -> None:
        shared = f"{SITE}x/"
        (said,) = self.conflicts(post("1", "a", shared), post("2", "b", shared))
        self.assertIn(
            f"{shared} had two meanings; it goes to {SITE}2023/05/a.html, not to {SITE}2023/05/b.html",
            said,
        )
        self.assertEqual(self.conflicts(post("1", "a", shared, shared)), [])
        self.assertEqual(self.conflicts(post("1", "a", f"{SITE}1")), [])

    def test_an_address_that_is_another_entrys_new_one(self) -> None:
        (said,) = self.conflicts(post("1", "a", f"{SITE}2023/05/b.html"), post("2", "b"))
        self.assertIn("is the new address of another entry", said)
        self.assertEqual(self.conflicts(post("1", "a", f"{SITE}2023/05/a.html")), [])

    def test_of_one_that_is_left_out(self) -> None:
        shared = f"{SITE}x/"
        self.assertEqual(
            self.conflicts(post("1", "a", shared, status="removed"), post("2", "b", shared)), []
        )
        self.assertEqual(self.answers()["/x/"], (301, "/2023/05/b.html"))


class Settings(MoveCase):
    def test_the_zone_where_it_differs(self) -> None:
        for host_zone, expected in (("Europe/Oslo", 0), ("Europe/Rome", 1), ("", 1)):
            self.setUp()
            self.host_toml = HOST + f'[site]\nzone = "{host_zone}"\n'
            self.converted(post("1", "a"), site_facts={"zone": "Europe/Oslo"})
            self.assertEqual(len(self.said_of("site-settings")), expected, host_zone)

    def test_what_has_no_place_by_its_name_and_namespace(self) -> None:
        entries = [
            post(str(n), f"s{n}", extra={"{urn:o}mood": ["calm"], "weight": ["3"]})
            for n in range(2)
        ]
        self.converted(*entries)
        said = self.said_of("unread-element")
        self.assertTrue(
            any(text.startswith("2 object(s) have mood (urn:o), which") for text in said), said
        )
        self.assertTrue(
            any(text.startswith("2 object(s) have weight, which") for text in said), said
        )

    def test_links_to_comments_where_the_new_host_names_them_otherwise(self) -> None:
        self.dialect = replace(DIALECT, addresses=Addresses(comment="reply-{id}"))
        comment = Comment(key="c", entry="1")
        for fragment, records, words in (
            ("", (comment,), "does not say how it names them"),
            ("c{id}", (comment,), "the new host names them #c{id}"),
            ("reply-{id}", (comment,), ""),
            ("", (), ""),
        ):
            self.setUp()
            self.host_toml = HOST + (
                f'[comments]\nfragment = "{fragment}"\n' if fragment else ""
            )
            self.converted(post("1", "a"), *records)
            said = self.said_of("comment-links")
            self.assertEqual(len(said), bool(words))
            self.assertTrue(all(words in text for text in said), said)


class Assigned(MoveCase):
    def test_authors_assigned_in_a_circle(self) -> None:
        people = [Author(key=key, name=key.upper()) for key in "abc"]
        choices = {
            "a": AuthorChoice("assign", "b"),
            "b": AuthorChoice("assign", "a"),
            "c": AuthorChoice("assign", "Zoe"),
        }
        made = self.converted(
            *people,
            post("1", "x", authors=("a",)),
            post("2", "y", authors=("c",)),
            authors=choices,
        )
        self.assertIn(made["1"].authors[0].name, ("A", "B"))
        self.assertEqual(made["2"].authors[0].name, "Zoe")
