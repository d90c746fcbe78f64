"""Dates, fields, kinds, authors and terms as the decisions of a move make them."""

import unittest
from datetime import UTC, date, datetime, timedelta

from newburrow.convert.step.fields import typed
from newburrow.decide.author_proposals import proposals
from newburrow.decide.decisions import (
    AuthorChoice,
    AuthorRules,
    DateChoice,
    FieldChoice,
    TermChoice,
    TermRules,
)
from newburrow.model import Author, Comment, Entry, Media, Term
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE

AT = datetime(2023, 5, 31, 23, 30, tzinfo=UTC)


def post(key: str = "1", **more: object) -> Entry:
    facts: dict[str, object] = {
        "slug": f"s{key}",
        "permalink": f"{SITE}{key}/",
        "published": AT,
        "title": f"T{key}",
    }
    return Entry(key=key, **(facts | more))  # type: ignore[arg-type]


class OfDates(MoveCase):
    def test_kept_shifted_and_in_another_zone(self) -> None:
        one = self.converted(post(), Comment(key="c", entry="1", published=AT))["1"]
        self.assertEqual((one.entry.published, one.new_address), (AT, f"{SITE}2023/05/s1.html"))
        self.setUp()
        rules = DateChoice(shift_hours=-24.5, zone="Asia/Tokyo")
        one = self.converted(
            post(updated=AT), Comment(key="c", entry="1", published=AT), dates=rules
        )["1"]
        moved = AT - timedelta(hours=24.5)
        self.assertEqual(
            (one.entry.published, one.entry.updated, one.comments[0].published), (moved,) * 3
        )
        self.assertEqual(one.entry.published.isoformat()[-6:], "+09:00")  # type: ignore[union-attr]
        self.setUp()
        one = self.converted(post(), dates=DateChoice(zone="Asia/Tokyo"))["1"]
        self.assertEqual(one.new_address, f"{SITE}2023/06/s1.html")  # the first of June there

    def test_what_cannot_be_right_is_said(self) -> None:
        records = [
            post("1", published=AT.replace(year=1987)), post("2"), post("3", published=AT.replace(year=2031)),
            post("4", published=AT.replace(year=2031), status="scheduled"),
        ]  # fmt: skip
        made = self.converted(*records, dates=DateChoice(latest=date(2024, 1, 1)))
        said = [
            (row[0], row[2])
            for row in self.journal.follow_ups.rows()
            if row[0].startswith("date")
        ]
        self.assertEqual(said, [("date-in-future", "T3"), ("date-too-early", "T1")])
        self.assertEqual(made["4"].entry.status, "draft")  # this host schedules nothing


class OfFields(MoveCase):
    host_toml = HOST.replace('[kinds.page]', """other_fields = false
[kinds.post.fields.stars]
type = "integer"
required = true
[kinds.post.fields.soil]
values = ["clay", "sand"]
default = "sand"
[kinds.post.fields.search_title]
[kinds.page]""")  # fmt: skip

    def test_names_types_values_defaults_and_what_has_no_place(self) -> None:
        maps = [
            FieldChoice("Rating", "stars", values={"good": "5"}), FieldChoice("seo", "search_title"), FieldChoice("kicker", "entry.summary"),
            FieldChoice("entry.language", "soil", values={"en": "clay"}), FieldChoice("junk", "-"),
        ]  # fmt: skip
        made = self.converted(
            post("1", fields={"Rating": " good ", "seo": "Owls", "kicker": "Soon", "junk": "x", "mood": "fine"}, language="en"),
            post("2", fields={"Rating": "none", "soil": "peat"}), post("3"), post("4", kind="page", fields={"mood": "x"}),
            fields=maps,
        )  # fmt: skip
        self.assertEqual(
            made["1"].entry.fields, {"stars": "5", "search_title": "Owls", "soil": "clay"}
        )
        self.assertEqual(
            (made["1"].entry.summary, made["2"].entry.fields), ("Soon", {"soil": "sand"})
        )
        self.assertEqual(made["4"].entry.fields, {"mood": "x"})
        said = sorted(
            (row[0], row[2])
            for row in self.journal.follow_ups.rows()
            if row[0].startswith("field")
        )
        self.assertEqual(said, [("field-dropped", "T1"), ("field-missing", "T2"), ("field-missing", "T3"), ("field-value", "T2"),
                                ("field-value", "T2")])  # fmt: skip

    def test_types(self) -> None:
        for type_, right, wrong in (
            ("integer", {"7": "7", " -03 ": "-3"}, ("7.5", "x", "")), ("number", {"7,5": "7.5", "1": "1"}, ("1,2,3", "x")),
            ("yes-no", {"TRUE": "yes", "0": "no"}, ("maybe",)), ("date", {"2024-05-06": "2024-05-06"}, ("soon",)),
            ("address", {"https://a.example/": "https://a.example/"}, ("javascript:x", "a b")), ("text", {"x": "x"}, ()),
        ):  # fmt: skip
            self.assertEqual({value: typed(value, type_) for value in right}, right)
            self.assertEqual(
                [typed(value, type_) for value in wrong], [None] * len(wrong), type_
            )


class OfKinds(MoveCase):
    def test_a_kind_goes_where_it_was_decided(self) -> None:
        made = self.converted(
            post("1", kind="document"),
            post("2", kind="lesson"),
            kinds={"document": "post", "lesson": "page"},
        )
        self.assertEqual([one.entry.kind for one in made.values()], ["post", "page"])

    def test_a_document_that_becomes_a_page_leads_to_its_files(self) -> None:
        file = Media(
            key="m",
            address=SITE + "plan.pdf",
            path="plan.pdf",
            title="The plan",
            digest="d" * 64,
        )
        one = self.converted(file, post("1", kind="document", enclosures=("m",)))["1"]
        self.assertIn(
            '<a href="https://mistlebank.example/media/plan-dddddddddd.pdf">The plan</a>',
            one.entry.body.text,
        )

    def test_an_entry_under_one_that_stays_behind_stands_under_the_next_that_moves(
        self,
    ) -> None:
        self.host_toml = HOST.replace(
            'address = "/p/{slug}.html"', 'address = "/p/{slug}.html"\nparents = true'
        )
        pages = [
            post("1", kind="page"),
            post("2", kind="page", parent="1", status="removed"),
            post("3", kind="page", parent="2"),
        ]
        made = self.converted(*pages)
        self.assertEqual(made["3"].entry.parent, "1")
        self.assertIn("parent-left-out", self.codes())


class OfAuthors(MoveCase):
    def test_unsigned_entries_and_more_authors_than_the_host_takes(self) -> None:
        self.host_toml = HOST.replace("[authors]", "[authors]\nmost = 1")
        people = [
            Author(key=key, name=name) for key, name in (("nell", "Nell"), ("hob", "Hob"))
        ]
        rules = AuthorRules(of_unsigned="Hob")
        made = self.converted(
            *people, post("1", authors=("nell", "hob")), post("2"), author_rules=rules
        )
        self.assertEqual(
            [[one.name for one in made[key].authors] for key in "12"], [["Nell"], ["Hob"]]
        )
        self.assertIn("authors-left", self.codes())

    def test_assigned_to_one_who_is_renamed_or_assigned(self) -> None:
        people = [Author(key=key, name=key.title()) for key in ("nell", "hob", "wren")]
        choices = {"nell": AuthorChoice("keep", "Nell Birch"), "hob": AuthorChoice("assign", "nell"),
                   "wren": AuthorChoice("assign", "Hob")}  # fmt: skip
        made = self.converted(
            *people, post("1", authors=("wren", "hob", "nell")), authors=choices
        )
        self.assertEqual([one.name for one in made["1"].authors], ["Nell Birch"])
        self.assertEqual(
            self.fate("wren", "author"),
            ("merged", "entries are assigned to Nell Birch (authors.csv)"),
        )


class Unifying(unittest.TestCase):
    def test_one_person_under_two_names(self) -> None:
        people = [
            Author(key="1", name="Nell Birch", email="nb@a.example"), Author(key="2", name="nell", email="NB@a.example"),
            Author(key="3", name="Birch, Néll"), Author(key="4", name="N. Birch"), Author(key="5", name="Hob Larkin"),
            Author(key="6", name="Hob Larkyn"), Author(key="7", name="Hob Larkin", email="other@a.example"), Author(key="8", name="Jo"),
            Author(key="9", name=""), Author(key="10", name=""),
        ]  # fmt: skip
        found = proposals(people, {"1": 9, "5": 4, "7": 3})
        self.assertEqual({key: one.new_name for key, one in found.items() if one.action == "assign"},
                         {"2": "Nell Birch", "3": "Nell Birch", "7": "Hob Larkin"})  # fmt: skip
        self.assertIn("nearly like Nell Birch", found["4"].why)
        self.assertIn("nearly like Hob Larkin", found["6"].why)
        self.assertEqual((found["8"].why, found["9"].why, found["10"].action), ("", "", "keep"))


class OfTerms(MoveCase):
    NESTING = HOST.replace(
        'name = "label"', 'name = "tag"\nvocabularies = ["tag", "category"]\nnested = true'
    )
    TREE = (
        Term(
            key="category/trees",
            vocabulary="category",
            slug="trees",
            name="Trees",
            description="All of <b>them</b>",
        ),
        Term(
            key="category/pears",
            vocabulary="category",
            slug="pears",
            name="Pears",
            parent="category/trees",
        ),
        Term(key="section/soft", vocabulary="section", slug="soft", name="Fruit/Soft/Currants"),
    )

    def test_nested_into_flat_by_path(self) -> None:
        made = self.converted(
            *self.TREE,
            post(terms=("category/pears",)),
            term_rules=TermRules(nested_names="path"),
        )
        self.assertEqual([term.name for term in made["1"].terms], ["Trees / Pears"])

    def test_paths_into_nested_and_sections_into_categories(self) -> None:
        self.host_toml = self.NESTING
        made = self.converted(*self.TREE, post(terms=("section/soft",)), term_rules=TermRules(split_names_at="/"),
                              vocabularies={"section": "category"})  # fmt: skip
        (term,) = made["1"].terms
        chain = [term.name]
        while term.parent:
            term = self.context.terms[term.parent]
            chain.append(term.name)
        self.assertEqual(
            (chain, made["1"].terms[0].vocabulary), (["Currants", "Soft", "Fruit"], "category")
        )

    def test_no_more_terms_of_an_entry_than_the_host_takes(self) -> None:
        self.host_toml = HOST + "[limits]\nterms_per_entry = 1\n"
        made = self.converted(*self.TREE, post(terms=("category/pears", "category/trees")))
        self.assertEqual([term.name for term in made["1"].terms], ["Pears"])
        self.assertIn(
            "The others are left out. (Trees)",
            next(row[5] for row in self.journal.follow_ups.rows() if row[0] == "terms-left"),
        )

    def test_a_term_that_becomes_a_page(self) -> None:
        self.host_toml = self.NESTING.replace(
            'address = "/p/{slug}.html"', 'address = "/p/{slug}.html"\nparents = true'
        )
        made = self.converted(*self.TREE, post("1", terms=("category/trees",)), post("2", kind="page", terms=("category/trees",)),
                              terms={"category/trees": TermChoice("page", "The trees")})  # fmt: skip
        page = made["term category/trees"]
        self.assertEqual(
            (page.entry.title, page.new_address), ("The trees", f"{SITE}p/trees.html")
        )
        self.assertEqual(page.entry.body.text, f'All of <b>them</b>\n<ul>\n<li><a href="{SITE}2023/05/s1.html">T1</a></li>\n'
                                               f'<li><a href="{SITE}p/s2.html">T2</a></li>\n</ul>')  # fmt: skip
        self.assertEqual(
            ([one.parent for one in (made["1"].entry, made["2"].entry)], made["1"].terms),
            (["", page.entry.key], ()),
        )
        self.assertEqual(
            self.fate("category/trees", "term"), ("moved", "became a page (terms.csv)")
        )
        self.assertEqual(self.answers()["/in/trees/"], (301, "/p/trees.html"))
