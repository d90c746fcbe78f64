from datetime import UTC, date, datetime

from newburrow.decide.condition import Condition
from newburrow.decide.decisions import Change, IdChoice, MediaChoice, Rule, Selection
from newburrow.model import Author, Body, Comment, Entry, Media, Record, Term
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import ExistingItem
from tests.convert.cases import HOST, MoveCase
from tests.helpers import SITE, demo_export, rows

WHEN = datetime(2023, 5, 6, 23, 30, tzinfo=UTC)


def orchard() -> list[Record]:
    """Two authors, nested terms, pages under pages."""
    return [
        Author(key="nell", name="Nell Birch", login="nb", email="nell@mistlebank.example"), Author(key="hob", name="Hob Larkin"),
        Term(key="category/trees", vocabulary="category", slug="trees", name="Trees"),
        Term(key="category/pears", vocabulary="category", slug="pears", name="Pears", parent="category/trees"),
        Term(key="tag/owl", vocabulary="tag", slug="owl", name="Owl"),
        Entry(key="1", title="Old pear", slug="old-pear", permalink=SITE + "2019/05/old-pear/", published=WHEN.replace(year=2019),
              authors=("nell",), terms=("category/pears",), body=Body("<p>We <b>graft</b>ed.</p>")),
        Entry(key="2", title="Owl box", slug="owl-box", permalink=SITE + "2023/05/owl-box/", published=WHEN, authors=("hob",),
              terms=("tag/owl",), fields={"soil": "Clay"}, body=Body("Graft nothing.")),
        Entry(key="3", kind="page", title="Trees", slug="trees", permalink=SITE + "trees/", body=Body("-")),
        Entry(key="4", kind="page", title="Map", slug="map", permalink=SITE + "trees/map/", parent="3", body=Body("-")),
        Entry(key="5", kind="page", title="Row one", slug="row-one", permalink=SITE + "trees/map/one/", parent="4",
              addresses=(SITE + "?entry=5",), body=Body("-")),
        Comment(key="c", entry="1", author_name="Jory", published=WHEN, body=Body("Fine")),
    ]  # fmt: skip


class Choosing(MoveCase):
    def moved(self, only: Condition = Condition(), leave: list[Condition] | None = None) -> str:
        return "".join(
            sorted(
                self.converted(
                    *orchard(),
                    choose=Selection(only=only, leave=leave or [], parents="leave-out"),
                )
            )
        )

    def test_each_condition(self) -> None:
        for condition, wanted in (
            (Condition(), "12345"), (Condition(kinds=("page",)), "345"), (Condition(authors=("NB",)), "1"),
            (Condition(authors=("hob larkin", "nell@mistlebank.example")), "12"), (Condition(terms=("Trees",)), "1"),
            (Condition(terms=("tag/owl",)), "2"), (Condition(fields={"soil": "clay"}), "2"), (Condition(fields={"soil": "*"}), "2"),
            (Condition(fields={"soil": "sand"}), ""), (Condition(addresses=("/20*",)), "12"), (Condition(addresses=("/?entry=5",)), "5"),
            (Condition(items=("old-pear", "4", "/trees/", SITE + "trees/map/one")), "134"), (Condition(under=("trees",)), "45"),
            (Condition(under=("4",)), "5"), (Condition(words=("graft",)), "2"), (Condition(words=("grafted", "OWL box")), "12"),
            (Condition(since=date(2023, 5, 6)), "2"), (Condition(until=date(2023, 5, 5)), "1"),
            (Condition(since=date(2019, 5, 6), until=date(2023, 5, 6)), "12"), (Condition(kinds=("post",), terms=("Owl",)), "2"),
            (Condition(states=("draft",)), ""),
        ):  # fmt: skip
            self.assertEqual(self.moved(condition), wanted, condition)
            (self.folder / "content.sqlite").unlink()

    def test_what_stands_above_moves_along_unless_it_is_left_behind(self) -> None:
        only = Condition(items=("5",))
        self.assertEqual(
            "".join(sorted(self.converted(*orchard(), choose=Selection(only=only)))), "345"
        )
        (self.folder / "content.sqlite").unlink()
        made = self.converted(
            *orchard(), choose=Selection(only=only, leave=[Condition(items=("4",))])
        )
        self.assertEqual(sorted(made), ["3", "5"])

    def test_all_but(self) -> None:
        self.assertEqual(
            self.moved(
                Condition(kinds=("page",)),
                [Condition(items=("map",)), Condition(words=("row",))],
            ),
            "3",
        )
        self.assertEqual(
            self.fate("4"), ("left-out", "left out by choose.leave 1 in move.toml (items)")
        )
        self.assertEqual(self.fate("1")[1], "does not match choose.only by kinds (move.toml)")
        self.assertEqual(self.fate("c", "comment"), ("left-out", "its entry is left out"))
        self.assertEqual(self.answers()["/trees/map/"], (410, ""))


class Rules(MoveCase):
    def test_what_is_set(self) -> None:
        made = self.converted(*orchard(), rules=[
            Rule(Condition(words=("graft", "grafted")), Change(kind="page", author="Hob Larkin", add_terms=("tag/craft", "Owl"),
                                                                drop_terms=("pears",), fields={"soil": "", "by": "hand"})),
            Rule(Condition(kinds=("page",), fields={"by": "*"}), Change(state="draft", title="About craft")),
            Rule(Condition(words=("zebra",)), Change(kind="post"), "zebras"),
        ])  # fmt: skip
        one, two = made["1"], made["2"]
        self.assertEqual(
            (one.entry.kind, one.new_address, one.authors[0].name),
            ("page", SITE + "p/old-pear.html", "Hob Larkin"),
        )
        self.assertEqual(
            [(term.name, term.vocabulary) for term in one.terms],
            [("craft", "label"), ("Owl", "label")],
        )
        self.assertEqual((one.entry.fields, two.entry.fields), ({"by": "hand"}, {"by": "hand"}))
        self.assertEqual(
            (one.entry.status, one.entry.title, made["3"].entry.title),
            ("draft", "About craft", "Trees"),
        )
        said = [row[5] for row in self.journal.follow_ups.rows() if row[0].startswith("rule")]
        self.assertEqual(
            said,
            [
                "Rule 3 (zebras) matched no entry.",
                "Rule 1 changed 2 entries.",
                "Rule 2 changed 2 entries.",
            ],
        )
        self.assertEqual(self.fate("1")[0], "moved")

    def test_in_the_move_folder(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("draft", "export.zip", "--to", "plainleaf", "--out", "m")
        text = (self.folder / "m/move.toml").read_text()
        for added, line, words in (
            ("[[rules]]\nwhen = { wrods = ['a'] }\n", 2, "'words'"), ("[[rules]]\nset = { kind = 'pgae' }\n", 2, "'page'"),
            ("[[rules]]\nwhen = { authors = ['Idris Fen'] }\n", 2, "'Idris Fenn'"), ("[[rules]]\n\nset.author = 'Nobody'\n", 3, "There are"),
            ("[[choose.leave]]\nterms = ['Graftin']\n", 2, "'Grafting'"), ("[[choose.leave]]\nsince = 'May'\n", 2, "date"),
        ):  # fmt: skip
            (self.folder / "m/move.toml").write_text(text + added)
            message = self.refused("move", "m")
            self.assertIn(words, message, added)
            self.assertIn(f"line {len(text.splitlines()) + line}", message, added)
        (self.folder / "m/move.toml").write_text(
            text + "[[rules]]\nwhen = { terms = ['Wildlife'] }\nset = { kind = 'page' }\n"
        )
        self.run_ok("move", "m")
        ledger = rows(self.folder / "m/ledger.csv")
        self.assertTrue(
            any(row["kind"] == "post" and row["new_address"].count("/") == 4 for row in ledger)
        )


class ValuesOfFields(MoveCase):
    def made(self, change: Change, **more: object) -> Entry:
        self.setUp()
        entry = Entry(key="1", slug="a", title="Pears", fields={"soil": "Clay", "none": " "})
        converted = self.converted(entry, rules=[Rule(set=change)], **more)  # type: ignore[arg-type]
        self.bundle = converted["1"]
        return self.bundle.entry

    def test_in_titles_terms_and_fields(self) -> None:
        entry = self.made(
            Change(
                title="{entry.title} on { soil }",
                fields={"ground": "{soil}!", "kept": "{{soil}}"},
            )
        )
        self.assertEqual(entry.title, "Pears on Clay")
        self.assertEqual((entry.fields["ground"], entry.fields["kept"]), ("Clay!", "{soil}"))
        self.made(Change(add_terms=("category/{soil}", "wet")))
        self.assertEqual([term.name for term in self.bundle.terms], ["Clay", "wet"])

    def test_what_names_a_field_that_an_entry_lacks_is_not_set(self) -> None:
        entry = self.made(
            Change(title="On {sun}", add_terms=("{none}", "{sun}"), fields={"soil": "{sun}"})
        )
        self.assertEqual((entry.title, entry.fields["soil"]), ("Pears", "Clay"))
        self.assertEqual(self.bundle.terms, ())

    def test_a_fact_that_there_is_not_is_refused(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("draft", "export.zip", "--to", "plainleaf", "--out", "m")
        text = (self.folder / "m/move.toml").read_text()
        (self.folder / "m/move.toml").write_text(
            text + "[[rules]]\nset = { title = '{entry.titel}' }\n"
        )
        self.assertIn("'entry.title'", self.refused("move", "m"))


class Chosen(MoveCase):
    def test_a_kind_that_a_rule_gives_is_chosen_by_what_it_is_now(self) -> None:
        self.host_toml = HOST + '[kinds.note]\naddress = "/n/{slug}"\n'
        entries = [
            Entry(key="1", slug="a", title="Pears"),
            Entry(key="2", slug="b", title="Owl"),
        ]
        rule = Rule(Condition(words=("pears",)), Change(kind="note"))
        made = self.converted(*entries, rules=[rule], choose=Selection(kinds=("page",)))
        self.assertEqual([bundle.entry.kind for bundle in made.values()], ["note"])
        self.assertEqual(self.fate("2")[0], "left-out")

    def test_nothing_chosen_is_an_error_that_says_why(self) -> None:
        self.write("export.zip", demo_export())
        self.run_ok("draft", "export.zip", "--to", "plainleaf", "--out", "m")
        path = self.folder / "m/move.toml"
        path.write_text(
            path.read_text().replace("[choose.only]", "[choose.only]\nitems = ['no-such-page']")
        )
        message = self.refused("move", "m")
        for words in ("No entry would move", "choose.only by items", "preset content"):
            self.assertIn(words, message)


class Slugs(MoveCase):
    def test_the_slug_is_the_one_in_the_address(self) -> None:
        made = self.converted(*(Entry(key=key, slug="pears") for key in "123"))
        self.assertEqual(
            [bundle.entry.slug for bundle in made.values()], ["pears", "pears-2", "pears-3"]
        )
        self.setUp()
        self.host_toml = HOST.replace("/{year}/{month}/{slug}.html", "/?no={id}")
        made = self.converted(Entry(key="7", slug="old pears"))
        self.assertEqual(made["7"].entry.slug, "old pears")
        self.setUp()
        self.host_toml = HOST + '[slugs]\nletters = "unicode"\n'
        self.assertEqual(
            self.converted(Entry(key="7", slug="りんご"))["7"].entry.slug, "りんご"
        )


class Ids(MoveCase):
    def test_renumbering_one_kind_of_objects_only(self) -> None:
        records = [Entry(key="40", slug="a"), Comment(key="50", entry="40", body=Body("Fine"))]
        made = self.converted(*records, ids=IdChoice(renumber=("comment",)))["40"]
        self.assertEqual((made.entry.key, made.comments[0].key), ("40", "1"))

    def test_an_id_of_a_file_of_the_new_host_is_not_given_again(self) -> None:
        def held(journal: Journal) -> None:
            journal.existing.add("id media", "5", ExistingItem("x", "", ""))

        files = [Media(key=key, path=f"f/{key}.png", digest=key * 20) for key in ("5", "6")]
        self.converted(
            Entry(key="40", slug="a"), *files, held=held, media=MediaChoice(files="all")
        )
        self.assertEqual(sorted(media.key for media in self.writer.files), ["1", "6"])


class TermsAbove(MoveCase):
    def test_what_a_term_in_use_is_nested_in_is_kept(self) -> None:
        self.host_toml = HOST.replace('name = "label"', 'name = "label"\nnested = true')
        terms = [
            Term(key=key, vocabulary="category", slug=key, name=key.upper(), parent=above)
            for key, above in (("a", ""), ("b", "a"), ("c", "b"), ("d", ""), ("e", "e"))
        ]
        self.converted(*terms, Entry(key="1", slug="x", terms=("c", "e")))
        self.assertEqual(
            [self.fate(key, "term")[0] for key in "abcde"],
            ["moved"] * 3 + ["left-out", "moved"],
        )
