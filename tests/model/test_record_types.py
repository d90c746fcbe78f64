"""Types of records: what is said of each once is enough for the whole program."""

import io
from typing import ClassVar

from newburrow.commands.move import move_paths
from newburrow.decide.draft import DraftRequest
from newburrow.formats.bag.writer import BagWriter
from newburrow.formats.exports.export import ExportRequest
from newburrow.model import (
    Answer,
    Author,
    Body,
    Choice,
    Comment,
    Entry,
    Feedback,
    Media,
    Question,
    Quiz,
    QuizSection,
    Record,
    Revision,
    Site,
    Term,
    record_types,
)
from newburrow.model.record_types import (
    RecordType,
    all_types,
    kind_of,
    name_of,
    register,
    with_references,
)
from newburrow.store.content_store import Store
from tests.helpers import SITE, FolderCase, rows


class Recipe(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A type of record that the program does not know."""

    table: ClassVar[str] = "recipe"

    title: str = ""
    course: str = ""
    entry: str = ""  # key of the entry that it belongs to


RECIPE = RecordType(
    Recipe, "recipes", references=("entry",), columns=("entry",), counted_by="course"
)


class Bag:
    """A bag being written into a test's folder."""

    def __init__(self, case: FolderCase) -> None:
        self.case = case

    def open(self, name: str) -> io.BytesIO:
        case = self.case

        class File(io.BytesIO):
            def close(self) -> None:
                if not self.closed:
                    case.write(f"kept/{name}", self.getvalue())
                super().close()

        return File()


class OfItsOwn(FolderCase):
    """One class and one line: the rest of the program follows."""

    def setUp(self) -> None:
        super().setUp()
        register(RECIPE)
        self.addCleanup(record_types._by_class.pop, Recipe)
        self.addCleanup(record_types._by_table.pop, "recipe")

    def test_it_goes_from_a_reader_through_store_ledger_and_accounting(self) -> None:
        writer = BagWriter(Bag(self), Site(key="site", title="Orchard", address=SITE))
        writer.record(Entry(key="1", title="Pressing day", permalink=f"{SITE}press/"))
        for key, course in (("a", "pudding"), ("b", "pudding"), ("c", "drink")):
            writer.record(Recipe(key=key, title=f"Recipe {key}", course=course, entry="1"))
        writer.finish()
        outcome = move_paths(
            DraftRequest(ExportRequest([self.folder / "kept"]), "lanternlog"),
            self.folder / "m",
            jobs=1,
        )
        self.assertEqual(
            (outcome.counts["pudding"].found, outcome.counts["pudding"].failed), (2, 2)
        )
        self.assertEqual(
            (outcome.counts["drink"].found, outcome.counts["drink"].failed), (1, 1)
        )
        self.assertTrue(all(account.balances for account in outcome.counts.values()))
        self.assertFalse(outcome.complete)
        ledger = [
            row
            for row in rows(self.folder / "m/ledger.csv")
            if row["kind"] in ("pudding", "drink")
        ]
        self.assertEqual(
            [(row["title"], row["fate"]) for row in ledger],
            [(f"Recipe {key}", "failed") for key in "abc"],
        )
        with Store(self.folder / "m/content.sqlite") as store:
            self.assertEqual(
                [recipe.course for recipe in store.all(Recipe)], ["pudding", "pudding", "drink"]
            )
            view = store.db.execute(
                "SELECT key, title, course, entry FROM recipes ORDER BY number"
            ).fetchall()
        self.assertEqual(view[0], ("a", "Recipe a", "pudding", "1"))
        said = [
            row
            for row in rows(self.folder / "m/follow-ups.csv")
            if row["kind"] == "type-not-moved"
        ]
        self.assertEqual(len(said), 2)

    def test_two_of_one_key_are_merged_and_accounted_for(self) -> None:
        writer = BagWriter(Bag(self), Site(key="site", title="Orchard", address=SITE))
        writer.record(Recipe(key="a", title="Perry", course="drink"))
        writer.record(Recipe(key="a", title="Perry", course="drink"))
        writer.finish()
        outcome = move_paths(
            DraftRequest(ExportRequest([self.folder / "kept"]), "lanternlog"),
            self.folder / "m",
            jobs=1,
        )
        account = outcome.counts["drink"]
        self.assertEqual((account.found, account.merged, account.failed), (2, 1, 1))


class References(FolderCase):
    RECORDS = (
        Site(key="site", front_page="1"),
        Author(key="jo"),
        Term(key="tag/a", parent="tag/b"),
        Media(key="m", entry="1", path="a.png"),
        Entry(
            key="1",
            authors=("jo",),
            terms=("tag/a",),
            enclosures=("m",),
            lead_picture="m",
            parent="2",
        ),
        Comment(key="c", entry="1", parent="d"),
        Revision(key="r", entry="1", author="jo"),
        Entry(key="q", kind="quiz", quiz=Quiz(sections=(QuizSection("one", bank="b"),))),
        Question(key="x", entry="q"),
    )

    def test_every_reference_is_marked_and_nothing_else(self) -> None:
        for record in self.RECORDS:
            marked = with_references(
                record, lambda key: f"export-2:{key}" if key else "", "export-2/"
            )
            self.assertEqual(marked.key, record.key)
            back = with_references(marked, lambda key: key.removeprefix("export-2:"))
            if isinstance(record, Media):
                self.assertEqual(marked.path, "export-2/a.png")
            else:
                self.assertEqual(back, record)
            if type(record) is not Author:
                self.assertNotEqual(marked, record)

    def test_every_type_has_a_place_in_the_ledger_and_a_name(self) -> None:
        self.assertEqual(
            sorted(record_types.ledger_order()),
            sorted([*(one.table for one in all_types()), record_types.FILE_KIND]),
        )
        self.assertEqual(kind_of(Term(key="t", vocabulary="label")), "label")
        self.assertEqual(kind_of(Entry(key="b", kind="question-bank")), "question-bank")
        self.assertEqual(name_of(Comment(key="c", author_name="Jo")), "Jo")
        self.assertEqual(name_of(Revision(key="r")), "")

    def test_a_question_holds_what_a_quiz_needs(self) -> None:
        question = Question(
            key="x",
            kind="match",
            prompt=Body("<p>Which rootstock?</p>"),
            choices=(
                Choice("a", Body("MM106"), "source"),
                Choice("b", Body("half-standard"), "target"),
            ),
            answers=(Answer("a", partner="b", share=1.0),),
            feedback=(
                Feedback(Body("Right"), on="right"),
                Feedback(Body("Think of the size"), is_hint=True),
            ),
            points=2.5,
        )
        writer = BagWriter(Bag(self), Site(key="site", address=SITE))
        writer.record(question)
        writer.finish()
        outcome = move_paths(
            DraftRequest(ExportRequest([self.folder / "kept"]), "lanternlog"),
            self.folder / "m",
            jobs=1,
        )
        self.assertEqual(outcome.counts["question"].found, 1)
        with Store(self.folder / "m/content.sqlite") as store:
            self.assertEqual(list(store.all(Question)), [question])
