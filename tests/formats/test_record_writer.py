import json

from tests.helpers import FolderCase, demo_export, rows

HOST = """
name = "barrow"
format = "json"
[kinds.post]
address = "/notes/{slug}"
takes = ["page"]
[terms]
vocabularies = ["*"]
[markup]
name = "markdown"
[comments]
markup = "text"
[write]
templates = "shapes"
folder = "out"
"""


class AHostMadeByAUser(FolderCase):
    """A host that nobody ships: a TOML file and templates alone."""

    def move(self, status: int = 0, **templates: str) -> list[dict[str, str]]:
        self.write("export.zip", demo_export())
        self.write("hosts/barrow.toml", HOST)
        for name, text in templates.items():
            self.write(f"hosts/shapes/{name}.json.j2", text)
        self.run_ok(
            "move", "export.zip", "--to", "hosts/barrow.toml", "--out", "m", status=status
        )
        return rows(self.folder / "m/ledger.csv")

    def test_it_works_as_well_as_ours(self) -> None:
        ledger = self.move(
            post='{"head": {{ title | tojson }}, "at": {{ address | tojson }}, "said": {{ body | tojson }}, '
            '"labels": {{ terms | map(attribute="name") | list | tojson }}, "answers": {{ comments | map(attribute="body") | list | tojson }}}',
            author='{"name": {{ name | tojson }}}',
        )  # fmt: skip
        notes = json.loads((self.folder / "m/new/out/post.json").read_text())
        self.assertEqual(
            len(notes),
            sum(row["kind"] in ("post", "page") and row["fate"] == "moved" for row in ledger),
        )
        self.assertEqual(
            len(json.loads((self.folder / "m/new/out/author.json").read_text())), 4
        )
        self.assertFalse((self.folder / "m/new/out/term.json").exists())
        one = next(note for note in notes if note["head"].startswith("How to graft"))
        self.assertIn("Grafting", one["labels"])
        self.assertNotIn("<p>", one["said"])
        self.assertTrue(any("answers" in note and note["answers"] for note in notes))

    def test_what_is_not_json_fails_and_is_said(self) -> None:
        ledger = self.move(status=1, post='{"head": "{{ title }}"}')
        failed = [row for row in ledger if row["fate"] == "failed" and row["kind"] == "post"]
        self.assertEqual(
            [row["title"] for row in failed], ['Cider tasting "in the dark" <again>']
        )
        self.assertIn("is not JSON", failed[0]["reason"])
        self.assertTrue(
            all(row["fate"] in ("moved", "left-out", "failed", "merged") for row in ledger)
        )

    def test_a_template_is_kept_within_its_sandbox(self) -> None:
        ledger = self.move(
            status=1,
            post='{"x": {{ "".__class__.__mro__[1].__subclasses__() | string | tojson }}}',
        )
        self.assertEqual(
            {row["fate"] for row in ledger if row["kind"] == "post"}, {"failed", "left-out"}
        )
        self.assertIn("fails", next(row["reason"] for row in ledger if row["fate"] == "failed"))

    def test_mistakes_in_templates(self) -> None:
        self.write("export.zip", demo_export())
        self.write("hosts/barrow.toml", HOST)
        self.assertIn(
            "no template post.json.j2",
            self.refused("move", "export.zip", "--to", "hosts/barrow.toml", "--rehearse"),
        )
        self.write("hosts/shapes/post.json.j2", '{\n"x": {{ title | }}')
        message = self.refused("move", "export.zip", "--to", "hosts/barrow.toml", "--rehearse")
        self.assertIn("post.json.j2", message)
        self.assertIn("line 2", message)
