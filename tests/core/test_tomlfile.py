import unittest

from msgspec import Struct

from newburrow.core import tomlfile
from newburrow.core.problem import BurrowError


class Inner(Struct, frozen=True, forbid_unknown_fields=True):
    address: str = ""
    takes: list[str] = []


class Outer(Struct, frozen=True, forbid_unknown_fields=True):
    name: str
    inner: Inner = Inner()
    kinds: dict[str, Inner] = {}
    macros: list[Inner] = []


class Loading(unittest.TestCase):
    def problem(self, text: str):  # type: ignore[no-untyped-def]
        with self.assertRaises(BurrowError) as caught:
            tomlfile.load(text, "a.toml", Outer)
        return caught.exception.problem

    def test_a_right_file(self) -> None:
        found = tomlfile.load('name = "a"\n[kinds.post]\naddress = "/x"\n', "a.toml", Outer)
        self.assertEqual(found, Outer("a", kinds={"post": Inner("/x")}))

    def test_wrong_keys_are_named_with_line_and_nearest(self) -> None:
        for text, line, near in (
            ('name = "a"\ninnr = 1\n', 2, "inner"),
            ('name = "a"\n[inner]\n# a comment\nadress = "/x"\n', 4, "address"),
            ('name = "a"\n[kinds.post]\ntaks = []\n', 3, "takes"),
            ('name = "a"\n[[macros]]\naddress = "x"\n[[macros]]\nadres = "y"\n', 5, "address"),
            ('name = "a"\nkinds.post.adress = "x"\n', 2, "address"),
        ):
            problem = self.problem(text)
            self.assertEqual((problem.code, problem.where.line), ("wrong-key", line), text)
            self.assertIn(repr(near), problem.advice, text)

    def test_wrong_values_are_named_with_line(self) -> None:
        problem = self.problem('name = "a"\n[inner]\naddress = 7\n')
        self.assertEqual(problem.where.line, 3)
        self.assertIn("Expected text in quotes but found a whole number", problem.message)
        self.assertEqual(problem.excerpt, "address = 7")

    def test_a_missing_key_is_named(self) -> None:
        self.assertIn("'name' is missing", self.problem("[inner]\n").message)

    def test_what_is_no_toml_is_shown_with_a_marker(self) -> None:
        problem = self.problem('name = "a"\n[inner\naddress = 1\n')
        self.assertEqual(problem.where.line, 2)
        self.assertEqual(problem.excerpt, "[inner\n      ^")
