"""Required fields, by whom they are required, and values that are not allowed."""

from newburrow.decide.decisions import FieldChoice
from newburrow.model import Entry
from tests.convert.cases import HOST, MoveCase

KIND = """
[kinds.post.fields.stars]
type = "integer"
required = {required}
default = "{default}"
[kinds.page]"""


class Required(MoveCase):
    def fields(self, values: dict[str, str], *maps: FieldChoice, required: str = "false", default: str = "") -> tuple[dict[str, str], list[str]]:  # fmt: skip
        """The fields of the entry as it was written, and the codes about fields."""
        self.setUp()
        self.host_toml = HOST.replace(
            "[kinds.page]", KIND.format(required=required, default=default)
        )
        bundle = self.converted(Entry(key="1", slug="a", fields=values), fields=list(maps))["1"]
        return bundle.entry.fields, [code for code in self.codes() if code.startswith("field")]

    def test_what_the_host_requires_is_reported_once(self) -> None:
        both = FieldChoice("rating", "stars", required=True)
        self.assertEqual(self.fields({}, required="true"), ({}, ["field-missing"]))
        self.assertEqual(self.fields({}, both, required="true"), ({}, ["field-missing"]))
        self.assertEqual(
            self.fields({"rating": "5"}, both, required="true"), ({"stars": "5"}, [])
        )
        self.assertEqual(
            self.fields({"rating": "x"}, both, required="true"),
            ({}, ["field-missing", "field-value"]),
        )

    def test_what_the_administrator_requires(self) -> None:
        rating = FieldChoice("rating", "stars", required=True)
        mood = FieldChoice("mood", "mood", required=True)
        self.assertEqual(self.fields({}, rating), ({}, ["field-missing"]))
        self.assertEqual(self.fields({}, mood), ({}, ["field-missing"]))
        self.assertEqual(self.fields({"mood": "fine"}, mood), ({"mood": "fine"}, []))
        self.assertEqual(self.fields({}, FieldChoice("mood", "mood")), ({}, []))

    def test_defaults_fill_what_is_missing_or_not_allowed(self) -> None:
        self.assertEqual(self.fields({}, default="3"), ({"stars": "3"}, []))
        self.assertEqual(self.fields({"stars": "4"}, default="3"), ({"stars": "4"}, []))
        self.assertEqual(
            self.fields({"stars": "x"}, default="3"), ({"stars": "3"}, ["field-value"])
        )
        self.assertEqual(
            self.fields({}, FieldChoice("rating", "stars", default="2"), required="true"),
            ({"stars": "2"}, []),
        )
        self.assertEqual(
            self.fields({}, FieldChoice("", "mood", default="fine")), ({"mood": "fine"}, [])
        )

    def test_a_field_without_a_new_name_keeps_its_old_one_and_a_dash_drops_it(self) -> None:
        self.assertEqual(
            self.fields({"mood": "fine"}, FieldChoice("mood")), ({"mood": "fine"}, [])
        )
        self.assertEqual(self.fields({"mood": "fine"}, FieldChoice("mood", "-")), ({}, []))
