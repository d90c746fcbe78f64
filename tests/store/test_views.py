"""The views: a column for each fact, and the examples of the documentation."""

import re
import sqlite3
from pathlib import Path

from msgspec.structs import fields

from newburrow.model import Comment, Entry
from newburrow.model.record_types import all_types
from newburrow.store.content_store import Store
from newburrow.store.views import columns_of, view_name
from tests.helpers import FolderCase, demo_export

PAGE = Path(__file__).parent.parent.parent / "docs/content-store.md"


class Views(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("demo.zip", demo_export())
        self.run_ok("draft", "demo.zip", "--to", "lanternlog", "--out", "m")
        self.path = self.folder / "m/content.sqlite"

    def ask(self, statement: str) -> list[tuple[object, ...]]:
        with sqlite3.connect(self.path) as db:
            return db.execute(statement).fetchall()

    def test_each_type_has_a_view_with_every_fact(self) -> None:
        page = PAGE.read_text("utf-8")
        for record_type in all_types():
            name = view_name(record_type)
            self.assertIn(f"`{name}`", page)
            with sqlite3.connect(self.path) as db:
                shown = [row[0] for row in db.execute(f"SELECT * FROM {name}").description]
            self.assertEqual(shown, list(columns_of(record_type.record)))
            for field in fields(record_type.record):
                self.assertTrue({field.name, f"{field.name}_file"} & set(shown), field.name)

    def test_rows_say_what_the_records_say(self) -> None:
        with Store(self.path) as store:
            for kind, view, names in (
                (
                    Entry,
                    "entries",
                    (
                        "key",
                        "kind",
                        "title",
                        "slug",
                        "permalink",
                        "status",
                        "language",
                        "position",
                    ),
                ),
                (
                    Comment,
                    "comments",
                    ("key", "entry", "parent", "kind", "author_name", "status"),
                ),
            ):
                records = [
                    tuple(getattr(record, name) for name in names) for record in store.all(kind)
                ]
                self.assertEqual(
                    self.ask(f"SELECT {', '.join(names)} FROM {view} ORDER BY number"), records
                )
                bodies = [(record.body.text, record.body.markup) for record in store.all(kind)]
                self.assertEqual(
                    self.ask(f"SELECT body, body_markup FROM {view} ORDER BY number"), bodies
                )

    def test_the_examples_of_the_documentation_give_rows(self) -> None:
        examples = re.findall(r"```sql\n(.*?)```", PAGE.read_text("utf-8"), re.DOTALL)
        self.assertEqual(len(examples), 3)
        for example in examples:
            self.assertTrue(self.ask(example), example)
