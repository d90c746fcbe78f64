import io

from hypothesis import given
from hypothesis import strategies as st

from newburrow.core import csvfile
from newburrow.core.problem import BurrowError
from tests.helpers import FolderCase

CELLS = st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\0"), max_size=20)


class Keeper(io.BytesIO):
    kept = b""

    def close(self) -> None:
        self.kept = self.getvalue()
        super().close()


class TableCase(FolderCase):
    def read(self, text: str | bytes, *header: str) -> list[tuple[int, dict[str, str]]]:
        return list(csvfile.read(self.write("t.csv", text), header))


def written(header: tuple[str, ...], rows: list[list[str]]) -> str:
    stream = Keeper()
    csvfile.write(stream, header, rows)
    return stream.kept.decode("utf-8")


class Tables(TableCase):
    @given(st.lists(st.tuples(CELLS, CELLS), max_size=6))
    def test_what_is_written_is_read_again(self, rows: list[tuple[str, str]]) -> None:
        rows = [(a, b) for a, b in rows if a.strip() or b.strip()]
        text = written(("a", "b"), [list(row) for row in rows])
        found = [
            (cells["a"], cells["b"]) for _line, cells in self.read(text.encode(), "a", "b")
        ]
        self.assertEqual(found, rows)

    def test_a_formula_is_text_to_a_spreadsheet(self) -> None:
        self.assertIn("'=1+1", written(("a",), [["=1+1"]]))

    def test_a_spreadsheets_own_ways_are_read(self) -> None:
        found = self.read("\ufeffb;a\r\n2;1\r\n\r\n", "a", "b")
        self.assertEqual(found, [(2, {"a": "1", "b": "2"})])

    def test_every_way_in_which_spreadsheets_save(self) -> None:
        for sign in ",;\t":
            text = f'a{sign}b\r\n"é {sign} x"{sign}2\r\n'
            for before in ("", f"sep={sign}\r\n"):
                for encoding in ("utf-8", "utf-8-sig", "utf-16", "utf-16-le"):
                    found = self.read((before + text).encode(encoding), "a", "b")
                    self.assertEqual(
                        found, [(3 if before else 2, {"a": f"é {sign} x", "b": "2"})]
                    )
        with self.assertRaises(BurrowError) as caught:
            self.read("a,b\n\xe9,2\n".encode("latin-1"), "a", "b")
        self.assertIn("neither in UTF-8 nor in UTF-16", str(caught.exception))

    def test_wrong_and_missing_columns_are_named(self) -> None:
        with self.assertRaises(BurrowError) as caught:
            self.read("a,actoin\n1,2\n", "a", "action")
        self.assertIn("Did you mean 'action'?", str(caught.exception))
        with self.assertRaises(BurrowError) as caught:
            self.read("a\n1\n", "a", "action")
        self.assertIn("'action' is missing", str(caught.exception))
