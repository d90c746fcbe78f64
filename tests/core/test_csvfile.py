import io
import unittest

from hypothesis import given
from hypothesis import strategies as st

from newburrow.core import csvfile
from newburrow.core.problem import BurrowError

CELLS = st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\0"), max_size=20)


class Keeper(io.BytesIO):
    kept = b""

    def close(self) -> None:
        self.kept = self.getvalue()
        super().close()


def written(header: tuple[str, ...], rows: list[list[str]]) -> str:
    stream = Keeper()
    csvfile.write(stream, header, rows)
    return stream.kept.decode("utf-8")


class Tables(unittest.TestCase):
    @given(st.lists(st.tuples(CELLS, CELLS), max_size=6))
    def test_what_is_written_is_read_again(self, rows: list[tuple[str, str]]) -> None:
        rows = [(a, b) for a, b in rows if a.strip() or b.strip()]
        text = written(("a", "b"), [list(row) for row in rows])
        found = [
            (cells["a"], cells["b"]) for _line, cells in csvfile.read(text, "t.csv", ("a", "b"))
        ]
        self.assertEqual(found, rows)

    def test_a_formula_is_text_to_a_spreadsheet(self) -> None:
        self.assertIn("'=1+1", written(("a",), [["=1+1"]]))

    def test_a_spreadsheets_own_ways_are_read(self) -> None:
        found = list(csvfile.read("\ufeffb;a\r\n2;1\r\n\r\n", "t.csv", ("a", "b")))
        self.assertEqual(found, [(2, {"a": "1", "b": "2"})])

    def test_wrong_and_missing_columns_are_named(self) -> None:
        with self.assertRaises(BurrowError) as caught:
            list(csvfile.read("a,actoin\n1,2\n", "t.csv", ("a", "action")))
        self.assertIn("Did you mean 'action'?", str(caught.exception))
        with self.assertRaises(BurrowError) as caught:
            list(csvfile.read("a\n1\n", "t.csv", ("a", "action")))
        self.assertIn("'action' is missing", str(caught.exception))
