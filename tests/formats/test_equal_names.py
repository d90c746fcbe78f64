"""Names that stand twice in one object: the last value counts, no other is lost."""

import json
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from newburrow.formats import equal_names
from newburrow.formats.json_stream import decoded
from newburrow.formats.texts import front_matter

_NAMES = st.sampled_from(["a", "b", "a (1)", '":', "\\", '\\":'])
_MEMBERS = st.lists(st.tuples(_NAMES, st.integers(0, 10**9)), max_size=6)


def _text(members: list[tuple[str, Any]], space: str) -> str:
    return (
        "{" + ", ".join(f"{json.dumps(name)}{space}: {value}" for name, value in members) + "}"
    )


class EqualNamesTest(unittest.TestCase):
    @given(st.lists(_MEMBERS, min_size=1, max_size=4), st.sampled_from(["", " ", "\n\t"]))
    def test_json_keeps_each_value(
        self, objects: list[list[tuple[str, int]]], space: str
    ) -> None:
        text = "[" + ",".join(_text(members, space) for members in objects) + "]"
        for found, members in zip(decoded(text), objects, strict=True):
            self.assertEqual(sorted(found.values()), sorted(value for _name, value in members))
            if len({name for name, _value in members}) == len(members):
                self.assertEqual(found, dict(members))
        self.assertEqual(decoded(text.encode()), decoded(text))

    def test_the_last_value_counts(self) -> None:
        self.assertEqual(
            decoded('{"a": 1, "b": {"c": 2, "c": 3}, "a": 4}'),
            {"a": 4, "b": {"c": 3, "c (1)": 2}, "a (1)": 1},
        )

    def test_front_matter(self) -> None:
        found, body, _line = front_matter.split("---\ntag: x\ntag: y\ntag: z\n---\nText")
        self.assertEqual(found, {"tag": "z", "tag (1)": "x", "tag (2)": "y"})
        self.assertEqual(body, "Text")

    def test_columns(self) -> None:
        self.assertEqual(
            equal_names.numbered(["id", "tag", "tag", "tag"]),
            ["id", "tag (1)", "tag (2)", "tag"],
        )
