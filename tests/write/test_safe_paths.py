import tempfile
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from newburrow.write.safe_paths import SafePaths

STEPS = st.one_of(
    st.sampled_from(["a", "A", "b.png", "..", ".", "", "a (2)", "é", "e\u0301", "x" * 300 + ".png", "\x01", "\ud800", ".x", "a."]),
    st.text(st.characters(exclude_characters="/\0"), max_size=8),
)  # fmt: skip
PATHS = st.lists(st.lists(STEPS, min_size=1, max_size=4).map("/".join), max_size=12)


class SafePathsTest(unittest.TestCase):
    @given(PATHS)
    def test_each_file_has_a_place_of_its_own(self, paths: list[str]) -> None:
        safe = SafePaths(["own/a.jsonl"])
        places = [safe.place(path) for path in paths]
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            for number, place in enumerate(places):
                target = folder / place
                self.assertTrue(target.resolve().is_relative_to(folder.resolve()))
                target.parent.mkdir(parents=True, exist_ok=True)
                self.assertFalse(target.exists(), places)
                target.write_text(str(number), "utf-8")
        self.assertEqual(len({place.casefold() for place in places}), len(places))

    def test_what_is_safe_and_free_stays(self) -> None:
        safe = SafePaths(["own/a.jsonl"])
        self.assertEqual(
            [
                safe.place(path)
                for path in ("files/a b.png", "../x", "a", "a/b.png", "own/a.jsonl", "")
            ],
            ["files/a b.png", "_up/x", "a", "a (2)/b (2).png", "own (2)/a (2).jsonl", "file"],
        )
