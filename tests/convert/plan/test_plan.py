"""Places, old addresses, authors, terms, media and comments: what is decided for each, and its fate."""

from datetime import UTC, datetime, timedelta, timezone
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from newburrow.convert.step.comments import _threaded
from newburrow.decide.decisions import AuthorChoice, Selection, TermChoice
from newburrow.hosts.profile import Slugs
from newburrow.hosts.slugs import accepted, make
from newburrow.model import Author, Comment, Entry, Media, Term, Where
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE

AT = datetime(2023, 5, 6, 8, tzinfo=UTC)


def post(key: str, slug: str = "a", at: datetime | None = AT, **more: object) -> Entry:
    return Entry(key=key, slug=slug, published=at, permalink=f"{SITE}{key}/{slug}/", **more)  # type: ignore[arg-type]


class Places(MoveCase):
    def new(self, *records: object, **more: object) -> dict[str, str]:
        found = self.converted(*records, **more)  # type: ignore[arg-type]
        return {
            key: bundle.new_address.removeprefix(SITE.rstrip("/"))
            for key, bundle in found.items()
        }

    def test_the_hosts_pattern(self) -> None:
        self.assertEqual(
            self.new(post("1"), post("2", "visit", kind="page")),
            {"1": "/2023/05/a.html", "2": "/p/visit.html"},
        )
        self.assertEqual(self.new(post("1", kind="document")), {"1": "/p/a.html"})

    def test_a_kind_that_the_host_lacks_fails_and_is_said(self) -> None:
        self.assertEqual(self.new(post("1", kind="lesson"), Comment(key="9", entry="1")), {})
        self.assertEqual(self.fate("1")[0], "failed")
        self.assertEqual(self.fate("9", "comment"), ("left-out", "its entry is left out"))
        self.assertIn("no-kind", self.codes())

    def test_the_oldest_keeps_its_address_whatever_the_order(self) -> None:
        later = [post(str(n), at=AT + timedelta(days=n)) for n in (2, 3, 1)]
        expected = {"1": "/2023/05/a.html", "2": "/2023/05/a-2.html", "3": "/2023/05/a-3.html"}
        self.assertEqual(self.new(*later), expected)
        self.assertEqual(self.new(*reversed(later)), expected)
        self.assertEqual(self.codes().count("address-taken"), 2)

    def test_a_number_that_is_taken_is_passed_over(self) -> None:
        found = self.new(post("1"), post("2"), post("3", "a-2"))
        self.assertEqual(
            sorted(found.values()),
            ["/2023/05/a-2.html", "/2023/05/a-3.html", "/2023/05/a.html"],
        )
        self.assertEqual(found["3"], "/2023/05/a-2.html")

    def test_slugs_are_made_where_there_is_none(self) -> None:
        found = self.new(
            post("1", "", title="Über den Zaun!"),
            post("2", "", title="…"),
            post("3", "りんご", at=None),
        )
        self.assertEqual(
            found,
            {
                "1": "/2023/05/uber-den-zaun.html",
                "2": "/2023/05/entry-2.html",
                "3": "/ringo.html",
            },
        )
        self.assertIn("undated", self.codes())

    def test_the_date_is_that_of_the_sites_zone_only_where_it_is_known(self) -> None:
        edge = datetime(2023, 6, 1, 0, 30, tzinfo=timezone(timedelta(hours=9)))
        self.assertEqual(self.new(post("1", at=edge)), {"1": "/2023/06/a.html"})

    @given(st.text(max_size=80), st.sampled_from(["ascii", "unicode"]))
    def test_a_made_slug_is_one_that_the_host_takes(self, text: str, letters: str) -> None:
        slug = make(text, Slugs(longest=20, letters=letters, reserved=("index",)))
        self.assertLessEqual(len(slug), 20)
        self.assertTrue(not slug or accepted(slug, Slugs(longest=20, letters=letters)))
        self.assertNotRegex(slug, r"[\s/?#%&.]|--|\A-|-\Z")
        self.assertNotEqual(slug, "index")
        self.assertTrue(letters == "unicode" or slug.isascii())


class Limits(MoveCase):
    host_toml = HOST + "[limits]\nentries = 2\n"

    def test_pages_go_first_then_the_newest(self) -> None:
        found = self.converted(
            post("1"), post("2", "b", AT + timedelta(days=1)), post("3", "c", kind="page")
        )
        self.assertEqual(sorted(found), ["2", "3"])
        self.assertEqual(self.fate("1"), ("failed", "above the limit of 2 entries of newhost"))
        self.assertEqual(self.answers()["/1/a/"], (GONE, ""))
        self.assertIn("host-limit", self.codes())


class Choosing(MoveCase):
    def test_each_reason_is_in_the_ledger(self) -> None:
        self.converted(post("1", status="removed"), post("2", "hello"), post("3", kind="page"), post("4", "b"),
                       choose=Selection(kinds=("post",)))  # fmt: skip
        self.assertEqual(
            self.fate("1"),
            ("left-out", "removed entries are left out (move.toml, choose.states)"),
        )
        self.assertEqual(
            self.fate("2"),
            ("left-out", "preset content of the old host (move.toml, choose.preset_content)"),
        )
        self.assertEqual(
            self.fate("3"),
            ("left-out", "entries of the kind page are left out (move.toml, choose.kinds)"),
        )
        self.assertEqual(self.fate("4"), ("moved", ""))

    def test_preset_content_can_be_chosen(self) -> None:
        self.assertEqual(
            list(self.converted(post("2", "hello"), choose=Selection(preset_content="move"))),
            ["2"],
        )

    def test_what_the_host_cannot_show_as_it_was_is_not_published(self) -> None:
        found = self.converted(
            post("1", status="private"),
            post("2", "b", status="scheduled"),
            states={"scheduled": "published"},
        )
        self.assertEqual(
            [found[key].entry.status for key in ("1", "2")], ["draft", "published"]
        )
        self.assertEqual(self.codes().count("state-changed"), 2)


class OldAddresses(MoveCase):
    def test_every_address_has_an_answer(self) -> None:
        self.converted(
            post("1", addresses=(SITE + "?entry=1", SITE + "was/", "mailto:x"), terms=("tag/b", "category/c"), authors=("t",)),
            post("2", "hello", addresses=(SITE + "?entry=2",)), post("3", "x", status="removed"),
            Entry(key="4", slug="same", published=AT, permalink=SITE + "2023/05/same.html"),
            Term(key="tag/b", slug="b", name="Bees & co"), Term(key="category/w", vocabulary="category", slug="w", name="Wild"),
            Term(key="category/c", vocabulary="category", slug="c", name="Crows", parent="category/w"),
            Media(key="m", address=SITE + "f/a.png", path="f/a.png", digest="a" * 64), Media(key="n", address=SITE + "f/b.png"),
            Author(key="t", login="t", name="T"),
        )  # fmt: skip
        self.assertEqual(
            self.answers(),
            {
                "/": (UNCHANGED, "/"), "/1/a/": (REDIRECTED, "/2023/05/a.html"), "/?entry=1": (REDIRECTED, "/2023/05/a.html"),
                "/was/": (REDIRECTED, "/2023/05/a.html"), "/2/hello/": (GONE, ""), "/?entry=2": (GONE, ""),
                "/2023/05/same.html": (UNCHANGED, "/2023/05/same.html"), "/feed/": (GONE, ""),
                "/marks/b/": (REDIRECTED, "/labels/bees-co/"), "/in/w/c/": (REDIRECTED, "/labels/crows/"), "/in/w/": (GONE, ""),
                "/f/a.png": (REDIRECTED, "/media/a-aaaaaaaaaa.png"), "/f/b.png": (GONE, ""),
            },
        )  # fmt: skip

    def test_a_page_of_the_new_site_is_never_redirected(self) -> None:
        self.converted(post("1", addresses=(SITE + "2023/05/b.html",)), post("2", "b"))
        self.assertNotIn("/2023/05/b.html", self.answers())
        self.assertIn("address-conflict", self.codes())

    def test_two_claims_to_one_address(self) -> None:
        self.converted(
            post("1", addresses=(SITE + "x/",)), post("2", "b", addresses=(SITE + "x/",))
        )
        self.assertEqual(self.answers()["/x/"], (REDIRECTED, "/2023/05/a.html"))
        self.assertIn("address-conflict", self.codes())

    def test_terms_merged_moved_and_nested(self) -> None:
        self.host_toml = self.host_toml.replace(
            'name = "label"',
            'name = "label"\nvocabularies = ["tag", "category"]\nnested = true',
        )
        terms = {"2": TermChoice("merge", "Bees"), "3": TermChoice("keep", "", "category", "Wildlife"),
                 "5": TermChoice("rename", "Trees", "", "-")}  # fmt: skip
        found = self.converted(
            post("1", terms=("1", "2", "3", "4", "5")), Term(key="1", vocabulary="category", slug="bees", name="Bees"),
            Term(key="2", vocabulary="tag", slug="bee", name="bee"), Term(key="3", vocabulary="tag", slug="owl", name="Owl"),
            Term(key="4", vocabulary="category", slug="wildlife", name="Wildlife"),
            Term(key="5", vocabulary="category", slug="tree", name="Tree", parent="4"), terms=terms,
        )  # fmt: skip
        self.assertEqual([(term.vocabulary, term.name, term.parent) for term in found["1"].terms], [
            ("category", "Bees", ""), ("category", "Owl", "category/wildlife"), ("category", "Wildlife", ""), ("category", "Trees", ""),
        ])  # fmt: skip
        self.assertEqual(
            self.fate("2", "term"), ("merged", "becomes the same category as the category Bees")
        )

    def test_parents_of_terms_in_a_circle(self) -> None:
        self.converted(post("1", terms=("a",)), Term(key="a", vocabulary="category", slug="a", name="A", parent="b"),
                       Term(key="b", vocabulary="category", slug="b", name="B", parent="a"))  # fmt: skip
        self.assertEqual(self.answers()["/in/b/a/"], (REDIRECTED, "/labels/a/"))
        self.assertIn("no-nesting", self.codes())


class AuthorsAndTerms(MoveCase):
    def test_names_on_the_new_host(self) -> None:
        found = self.converted(
            post("1", authors=("a", "b"), terms=("1", "2", "3", "4")), post("2", "b", authors=("unknown",)),
            Author(key="a", name="Ann", about="Likes ladders.", login="ladders"), Author(key="b", name="Ben"), Author(key="c", name="Cy"),
            *(Term(key=key, name=name, description="d" if key == "1" else "") for key, name in
              (("1", "Bees"), ("2", "Bees"), ("3", "Owls"), ("4", "Mud"), ("5", "Unused"))),
            authors={"b": AuthorChoice("assign", "Ann")}, terms={"3": TermChoice("rename", "Barn owls"), "4": TermChoice("drop")},
        )  # fmt: skip
        self.assertEqual([author.name for author in found["1"].authors], ["Ann"])
        self.assertEqual([term.name for term in found["1"].terms], ["Bees", "Barn owls"])
        self.assertEqual(
            [self.fate(key, "author")[0] for key in "abc"], ["moved", "merged", "left-out"]
        )
        self.assertEqual(
            [self.fate(key, "term")[0] for key in "12345"],
            ["moved", "merged", "moved", "left-out", "left-out"],
        )
        for code in ("author-profile", "author-login", "term-description", "no-author"):
            self.assertIn(code, self.codes())


class Files(MoveCase):
    def test_names_cannot_collide_and_the_same_bytes_go_once(self) -> None:
        ones = [
            Media(key=str(n), path=f"{n}/Bud 1.PNG", digest=digest)
            for n, digest in enumerate(("a" * 64, "b" * 64, "a" * 64))
        ]
        same_start = Media(key="9", path="bud-1.png", digest="a" * 10 + "c" * 54)
        missing = Media(
            key="x", address=SITE + "gone.png", extra={"(path)": ["files/gone.png"]}
        )
        self.converted(*ones, same_start, missing)
        self.assertEqual(
            self.copied,
            [
                "media/bud-1-aaaaaaaaaa.png",
                "media/bud-1-bbbbbbbbbb.png",
                f"media/bud-1-{'a' * 10}{'c' * 54}.png",
            ],
        )
        self.assertEqual([self.fate(key, "media")[0] for key in ("0", "1", "2", "9", "x")],
                         ["moved", "moved", "merged", "moved", "failed"])  # fmt: skip
        self.assertIn("missing-file", self.codes())


class Comments(MoveCase):
    def test_spam_stays_behind_and_its_answers_do_not(self) -> None:
        found = self.converted(
            post("1"), Comment(key="a", entry="1", status="spam"), Comment(key="b", entry="1", parent="a"),
            Comment(key="c", entry="1", status="pending"), Comment(key="d", entry="gone"),
        )["1"]  # fmt: skip
        self.assertEqual(
            [(comment.key, comment.parent) for comment in found.comments],
            [("b", ""), ("c", "")],
        )
        self.assertEqual(
            self.fate("a", "comment"),
            ("left-out", "spam comments are left out (move.toml, choose.comment_states)"),
        )
        self.assertEqual(
            self.fate("d", "comment"), ("failed", "its entry is not in the export")
        )

    @given(
        st.lists(
            st.tuples(st.integers(0, 12), st.integers(0, 12), st.booleans()),
            max_size=12,
            unique_by=lambda row: row[0],
        )
    )
    def test_answers_come_after_what_they_answer_and_none_is_lost(
        self, rows: list[tuple[int, int, bool]]
    ) -> None:
        parents = {str(key): str(parent) if parent else "" for key, parent, _kept in rows}
        kept = {
            str(key): Comment(key=str(key), parent=parents[str(key)])
            for key, _parent, stays in rows
            if stays
        }
        ordered = _threaded(kept, parents)
        self.assertEqual(sorted(comment.key for comment in ordered), sorted(kept))
        seen = {""}
        for comment in ordered:
            self.assertIn(comment.parent, seen)
            seen.add(comment.key)


class OnFiles(MoveCase):
    def test_a_comment_on_a_file_is_not_given_to_another_entry(self) -> None:
        self.converted(
            post("1"),
            Media(key="9", path="a.png", digest="a" * 64),
            Comment(key="9", entry="1"),
            Comment(key="7", entry="9"),
        )
        self.assertEqual(
            self.fate("7", "comment"),
            ("failed", "it is on a file, and files have no comments on the new host"),
        )


class Faults(MoveCase):
    def test_a_fault_in_one_entry_is_a_failure_of_that_entry(self) -> None:
        def broken(*_words: object) -> None:
            raise ZeroDivisionError("oh")

        steps = mock.patch("newburrow.convert.conversion.STEPS", (("break it", broken),))
        with steps, self.assertLogs("newburrow"):
            self.assertEqual(self.converted(post("1"), Comment(key="c", entry="1")), {})
        self.assertEqual(self.fate("1")[0], "failed")
        self.assertIn("ZeroDivisionError: oh", self.fate("1")[1])
        self.assertEqual(self.fate("c", "comment"), ("failed", "its entry failed"))

    def test_what_was_read_twice_is_merged(self) -> None:
        self.converted(post("1"), post("1", title="other", source=Where("b.xml", 9)))
        fates = [
            (row.nth, row.fate.value)
            for row in self.journal.ledger.all()
            if row.object == "entry"
        ]
        self.assertEqual(sorted(fates), [(0, "moved"), (1, "merged")])
        self.assertIn("twice", self.codes())
