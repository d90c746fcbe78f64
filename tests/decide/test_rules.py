from datetime import UTC, date, datetime

from newburrow.decide.condition import Condition
from newburrow.decide.decisions import Change, Rule, Selection
from newburrow.model import Author, Body, Comment, Entry, Record, Term
from tests.convert.cases import MoveCase
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
            self.fate("4"), ("left-out", "left behind by its items (move.toml, choose.leave 1)")
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
