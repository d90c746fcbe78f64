"""Titles, authors, terms and dates exactly at the new host's limits, one below and one above."""

from datetime import UTC, date, datetime, timedelta

from newburrow.convert.step.dates import EARLIEST
from newburrow.decide.decisions import AuthorRules, DateChoice
from newburrow.model import Author, Entry, Term
from tests.convert.cases import HOST, MoveCase


class OfTitles(MoveCase):
    def title(self, title: str, most: int) -> str:
        self.setUp()
        self.host_toml = f"{HOST}[limits]\ntitle = {most}\n"
        return self.converted(Entry(key="1", slug="a", title=title))["1"].entry.title

    def test_a_title_is_cut_between_words_where_it_is_too_long(self) -> None:
        for title, most, expected in (
            ("Pears", 6, "Pears"),
            ("Pears", 5, "Pears"),
            ("Pears", 4, "Pea…"),
            ("Pears", 2, "P…"),
            ("Pears", 1, "P"),
            ("Old pears", 8, "Old…"),
            ("Old pears", 9, "Old pears"),
        ):
            self.assertEqual(self.title(title, most), expected, (title, most))
            self.assertEqual("title-cut" in self.codes(), title != expected, (title, most))

    def test_the_follow_up_has_the_whole_title_and_both_lengths(self) -> None:
        self.title("Old pears", 8)
        message = next(
            row[5] for row in self.journal.follow_ups.rows() if row[0] == "title-cut"
        )
        for part in ("9", "8", "Old pears"):
            self.assertIn(part, message)


class OfCounts(MoveCase):
    def test_as_many_authors_and_terms_as_the_host_takes(self) -> None:
        people = [Author(key=key, name=key.upper()) for key in "abc"]
        terms = [Term(key=key, vocabulary="tag", slug=key, name=key.upper()) for key in "xyz"]
        entry = Entry(key="1", slug="a", authors=("a", "b", "c"), terms=("x", "y", "z"))
        for most, kept, over in ((2, 2, True), (3, 3, False), (4, 3, False), (0, 3, False)):
            self.setUp()
            self.host_toml = HOST.replace("[authors]", f"[authors]\nmost = {most}")
            self.host_toml += f"[limits]\nterms_per_entry = {most}\n"
            if not most:
                self.host_toml = HOST
            bundle = self.converted(*people, *terms, entry)["1"]
            self.assertEqual([author.name for author in bundle.authors], list("ABC")[:kept])
            self.assertEqual([term.name for term in bundle.terms], list("XYZ")[:kept])
            for code in ("authors-left", "terms-left"):
                self.assertEqual(code in self.codes(), over, (code, most))

    def test_an_entry_without_a_known_author_says_so(self) -> None:
        self.converted(Entry(key="1", slug="a", authors=("unknown",)))
        self.assertIn("no-author", self.codes())
        self.setUp()
        self.converted(Author(key="a", name="A"), Entry(key="1", slug="a", authors=("a",)))
        self.assertNotIn("no-author", self.codes())


class OfDates(MoveCase):
    def code(self, published: datetime, status: str = "published") -> list[str]:
        self.setUp()
        entry = Entry(key="1", slug="a", published=published, status=status)
        self.converted(entry, dates=DateChoice(latest=date(2024, 1, 1)))
        return [code for code in self.codes() if code.startswith("date")]

    def test_the_first_and_the_last_day_that_are_right(self) -> None:
        midnight = datetime(2024, 1, 2, tzinfo=UTC)
        self.assertEqual(self.code(EARLIEST), [])
        self.assertEqual(self.code(EARLIEST - timedelta(seconds=1)), ["date-too-early"])
        self.assertEqual(self.code(midnight - timedelta(seconds=1)), [])
        self.assertEqual(self.code(midnight), ["date-in-future"])
        self.assertEqual(self.code(midnight, "draft"), [])

    def test_a_zone_alone_and_a_shift_alone_change_dates(self) -> None:
        noon = datetime(2023, 5, 6, 12, tzinfo=UTC)
        for rules, expected in (
            (DateChoice(zone="Asia/Tokyo"), "2023-05-06T21:00:00+09:00"),
            (DateChoice(shift_hours=1.5), "2023-05-06T13:30:00+00:00"),
            (DateChoice(), "2023-05-06T12:00:00+00:00"),
        ):
            self.setUp()
            bundle = self.converted(Entry(key="1", slug="a", published=noon), dates=rules)["1"]
            self.assertEqual(bundle.entry.published.isoformat(), expected)  # type: ignore[union-attr]

    def test_a_shift_out_of_the_calendar_leaves_the_date(self) -> None:
        end = datetime(9999, 12, 31, 23, tzinfo=UTC)
        bundle = self.converted(
            Entry(key="1", slug="a", published=end), dates=DateChoice(shift_hours=2)
        )["1"]
        self.assertEqual(bundle.entry.published, end)


class OfStates(MoveCase):
    def advice(self, status: str) -> str:
        self.setUp()
        self.converted(Entry(key="1", slug="a", status=status))
        return next(
            (row[6] for row in self.journal.follow_ups.rows() if row[0] == "state-changed"), ""
        )

    def test_the_advice_for_what_was_private(self) -> None:
        self.assertIn("who may read it", self.advice("private"))
        self.assertEqual(self.advice("scheduled"), "Check that this is what you want.")
        self.assertEqual(self.advice("published"), "")


class OfUnsigned(MoveCase):
    def test_a_name_that_is_known_or_new(self) -> None:
        wren = Author(key="w", name="Wren", login="wren", email="w@a.example")
        signed = Entry(key="2", slug="b", authors=("w",))
        for name, records, expected in (
            ("wren", (wren, signed), "w"),
            ("w@a.example", (wren, signed), "w"),
            ("wren", (wren,), "wren"),  # wrote nothing that moves
            ("Hob", (), "Hob"),
        ):
            self.setUp()
            rules = AuthorRules(of_unsigned=name)
            bundle = self.converted(Entry(key="1", slug="a"), *records, author_rules=rules)["1"]
            self.assertEqual([author.key for author in bundle.authors], [expected], name)
