"""What two records that are one become, and where the limits of being one are."""

import unittest
from datetime import UTC, datetime, timedelta

from newburrow.model import Author, Body, Comment, Entry, Media, Site
from newburrow.store.merge.likeness import LIKE, NEAR, likeness, same_author, same_text
from newburrow.store.merge.merge_exports import _fit, _near
from newburrow.store.merge.merged_record import united

MAY = datetime(2023, 5, 6, 8, tzinfo=UTC)
LONG = "We grafted forty scions of the old pear and the fridge held them until May."
MOMENT = timedelta(microseconds=1)


def entry(key: str = "1", body: str = LONG, **facts: object) -> Entry:
    return Entry(key=key, title="Grafting", body=Body(body), **facts)  # type: ignore[arg-type]


class Facts(unittest.TestCase):
    def test_what_each_lacked(self) -> None:
        first = entry(
            summary="s", fields={"a": "1"}, terms=("tag/x",), permalink="https://a.example/1"
        )
        second = entry(
            "2",
            slug="graft",
            language="en",
            fields={"b": "2"},
            terms=("tag/y",),
            authors=("Nell",),
        )
        made = united(first, second)
        self.assertEqual(made.first_lacked, ["language", "authors", "terms", "field b"])
        self.assertEqual(made.second_lacked, ["summary", "terms", "field a"])
        self.assertEqual(made.differ, [])
        record = made.record
        self.assertEqual(
            (record.key, record.slug, record.summary, record.language),
            ("1", "graft", "s", "en"),
        )
        self.assertEqual((record.fields, record.authors), ({"a": "1", "b": "2"}, ("Nell",)))
        self.assertEqual(set(record.terms), {"tag/x", "tag/y"})

    def test_a_text_that_is_nearly_the_same_does_not_differ(self) -> None:
        alike = "<p>We grafted forty scions of the old pear, and the fridge held them until May!</p>"
        self.assertEqual(united(entry(), entry("2", alike)).differ, [])
        self.assertEqual(
            united(entry(), entry("2", "Something else entirely, about bees.")).differ, ["body"]
        )

    def test_a_fact_that_both_say_otherwise_differs(self) -> None:
        made = united(
            entry(status="published", published=MAY),
            entry("2", status="draft", published=MAY + MOMENT),
        )
        self.assertEqual(made.differ, ["status", "date"])
        self.assertEqual(
            united(
                Author(key="a", address="http://www.a.example"),
                Author(key="b", address="https://a.example/"),
            ).differ,
            [],
        )
        self.assertEqual(
            united(
                Author(key="a", address="https://a.example/x"),
                Author(key="b", address="https://a.example/y"),
            ).differ,
            ["address"],
        )

    def test_the_fuller_entry_wins_and_its_kind_stays_that_of_the_first(self) -> None:
        made = united(
            entry(body="Short.", kind="page", guid="urn:1"),
            entry("2", kind="post", guid="urn:2"),
        ).record
        self.assertEqual(
            (made.body.text, made.kind, made.key, made.guid), (LONG, "page", "1", "urn:1")
        )
        made = united(entry(kind="page"), entry("2", "Short.", kind="post")).record
        self.assertEqual((made.body.text, made.kind), (LONG, "page"))
        # with texts of one length the one with more facts, and of two equal ones the first
        self.assertEqual(
            united(entry(slug=""), entry("2", slug="b", language="cy")).record.slug, "b"
        )
        self.assertEqual(united(entry(slug="a"), entry("2", slug="b")).record.slug, "a")

    def test_every_address_once(self) -> None:
        first = entry(
            permalink="https://a.example/1",
            addresses=("https://a.example/old", "https://a.example/?entry=1"),
        )
        second = entry(
            "2",
            "Short.",
            permalink="http://www.a.example/other",
            addresses=("http://a.example/old", "http://a.example/1"),
        )
        self.assertEqual(
            united(first, second).record.addresses,
            (
                "https://a.example/old",
                "https://a.example/?entry=1",
                "http://www.a.example/other",
            ),
        )

    def test_a_file_is_the_one_that_is_there(self) -> None:
        named, there = (
            Media(key="1", size=5, media_type="image/x"),
            Media(key="2", path="a.png", size=9, digest="d", media_type="image/png"),
        )
        for first, second in ((named, there), (there, named)):
            made = united(first, second).record
            self.assertEqual(
                (made.path, made.size, made.digest, made.media_type),
                ("a.png", 9, "d", "image/png"),
            )
        other = Media(key="3", path="b.png", size=7, digest="e")
        self.assertEqual(united(there, other).record.path, "a.png")

    def test_facts_of_a_site_are_its_own(self) -> None:
        made = united(
            Site(key="a", title="A", generator="g", zone="Europe/London"),
            Site(key="b", title="A", generator="h"),
        )
        self.assertEqual(
            (made.differ, made.second_lacked, made.record.generator), ([], ["time zone"], "g")
        )


class Limits(unittest.TestCase):
    def test_how_far_apart_one_moment_can_be(self) -> None:
        for sign in (1, -1):
            at, beyond = MAY + sign * NEAR, MAY + sign * (NEAR + MOMENT)
            self.assertTrue(same_text(entry(published=MAY), entry("2", published=at)))
            self.assertFalse(same_text(entry(published=MAY), entry("2", published=beyond)))
            self.assertTrue(
                _near(Comment(key="1", published=MAY), Comment(key="2", published=at))
            )
            self.assertFalse(
                _near(Comment(key="1", published=MAY), Comment(key="2", published=beyond))
            )
        self.assertTrue(_near(Comment(key="1"), Comment(key="2", published=MAY)))
        self.assertTrue(_near(Comment(key="1"), Comment(key="2")))

    def test_texts_that_are_missing_need_dates(self) -> None:
        self.assertTrue(same_text(entry(body="", published=MAY), entry("2", published=MAY)))
        self.assertFalse(same_text(entry(body="", published=MAY), entry("2")))
        self.assertFalse(same_text(entry(body=""), entry("2", body="")))
        self.assertTrue(same_text(entry(), entry("2")))
        self.assertTrue(same_text(entry(body="", summary=LONG), entry("2")))

    def test_a_beginning_is_alike_and_the_limit_counts(self) -> None:
        text = "abcdefghij" * 10
        self.assertEqual(likeness(text[:50], text[:55]), likeness(text[:50], text))
        self.assertEqual(likeness(text[:50], text[:50]), 100)
        self.assertLess(likeness(text[:50], text[:55]), 100)
        self.assertEqual(likeness("a tree …", "a tree"), 100)
        self.assertEqual(likeness("a tree...", "a tree"), 100)
        changed = lambda n: "x" * n + text[n:]  # noqa: E731
        most = max(n for n in range(100) if likeness(text, changed(n)) >= LIKE)
        for number, same in ((most, True), (most + 1, False)):
            self.assertEqual(
                same_text(entry(body=text), entry("2", body=changed(number))), same
            )

    def test_authors(self) -> None:
        nell = Author(key="a", login="nell", name="Nell Birch", email="n@a.example")
        for other, same in (
            (Author(key="b", email="N@A.example"), True), (Author(key="b", login="nell", name="Nell Birch", email="m@a.example"), False),
            (Author(key="b", login="NELL"), True), (Author(key="b", login="hob", name="nell  bïrch"), True),
            (Author(key="b", login="hob", name="Hob"), False), (Author(key="b"), False),
        ):  # fmt: skip
            self.assertEqual(same_author(nell, other), same, other)
            self.assertEqual(same_author(other, nell), same, other)
        self.assertFalse(same_author(Author(key="a"), Author(key="b")))

    def test_one_key_that_is_two_objects(self) -> None:
        address = "https://a.example/1"
        for first, second, one in (
            (entry(permalink=address), Entry(key="1", title="Bees", permalink=address), True),
            (entry(), entry(), True), (entry(), Entry(key="1", title="Bees", body=Body(LONG)), False),
            (entry(), entry(body="About bees, and nothing of that."), False),
            (Comment(key="1", author_name="Bo", body=Body("x")), Comment(key="1", author_name="bo", body=Body("<p>x</p>")), True),
            (Comment(key="1", author_name="Bo", body=Body("x")), Comment(key="1", author_name="Al", body=Body("x")), False),
            (Author(key="1", name="Bo"), Author(key="1", login="bo"), True), (Author(key="1", name="Bo"), Author(key="1", name="Al"), False),
        ):  # fmt: skip
            self.assertEqual(_fit(first, second), one, (first, second))
