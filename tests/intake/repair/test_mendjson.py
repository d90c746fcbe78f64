import io
import json
import random
import unittest

from hypothesis import given
from hypothesis import strategies as st

from newburrow.intake.part import Part
from newburrow.intake.repair.json_repair import mend_json
from newburrow.intake.repair.json_scanner import JsonScanner
from newburrow.intake.repair.record import Repair
from tests.helpers import FolderCase
from tests.test_fuzz import broken

VALUES = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=4), inner, max_size=4), max_leaves=20,
)  # fmt: skip


def mended(data: bytes, name: str = "a.json") -> tuple[bytes, list[str]]:
    repairs: list[Repair] = []
    out = io.BytesIO()
    mend_json(Part(name, len(data), name, lambda: io.BytesIO(data)), out, repairs.append)
    return out.getvalue(), [f"{one.code} {one.line}" for one in repairs]


class Repairs(unittest.TestCase):
    def test_each(self) -> None:
        for text, wanted, codes in (
            ('{"a": [1, 2,]}', '{"a": [1, 2]}', ["trailing-comma 1"]),
            ('[{"a": 1}\n{"a": 2}]', '[{"a": 1},\n{"a": 2}]', ["missing-comma 2"]),
            ('[{"a": "x\ny\tz"}]', '[{"a": "x\\ny\\tz"}]', ["control-in-text 1", "control-in-text 1"]),
            ('[{"a": "it\\\'s \\x C:\\dir"}]', '[{"a": "it\'s \\\\x C:\\\\dir"}]', ["wrong-escape 1"] * 3),
            ('[{a: True, "b": NaN, \'c\': None}]', '[{"a": true, "b": null, "c": null}]',
             ["bare-name 1", "bare-word 1", "bare-word 1", "bare-name 1", "bare-word 1"]),
            ('\ufeff[{"a": 1}]', '[{"a": 1}]', ["before-start 1"]),
            ('Warning: x\n[{"a": 1}]', '\n[{"a": 1}]', ["stray-text 1"]),
            ('[{"a": 1}]\n<b>Fatal error</b>: memory', '[{"a": 1}]\n', ["after-end 2"]),
            ('[{"a": 1},\n<b>Fatal error</b>: in "x.php"\n{"a": 2}]', '[{"a": 1},\n{"a": 2}]', ["stray-text 2"]),
            ('[{"a": 1}, {"a":}]', '[{"a": 1}, {"a": null}]', ["missing-value 1"]),
            ('{"x": [{"a": 1}]', '{"x": [{"a": 1}]}', ["unclosed-bracket 1"]),
        ):  # fmt: skip
            found, repairs = mended(text.encode())
            self.assertEqual(
                (found.decode().replace("\n ", "\n"), repairs), (wanted, codes), text
            )
            json.loads(found)

    def test_bytes_of_another_encoding(self) -> None:
        found, repairs = mended(
            '[{"a": "Äpfel"},\n{"b": "'.encode() + "Früchte".encode("cp1252") + b'"}]'
        )
        self.assertEqual(
            (json.loads(found), repairs), ([{"a": "Äpfel"}, {"b": "Früchte"}], ["encoding 2"])
        )
        self.assertEqual(
            json.loads(mended('[{"a": "Äpfel"}]'.encode("utf-16"))[0]), [{"a": "Äpfel"}]
        )

    def test_a_file_cut_off_keeps_whole_items_and_names_the_cut_one(self) -> None:
        whole = json.dumps(
            {
                "posts": [
                    {"title": f"Entry {n}", "tags": ["a"], "o": {"x": [1]}} for n in range(9)
                ],
                "n": 1,
            }
        )
        for cut in range(10, len(whole) - 12):
            found = json.loads(mended(whole[:cut].encode())[0])
            items = [one for one in found.get("posts") or []]
            self.assertEqual(
                items, json.loads(whole)["posts"][: whole[:cut].count("]}}")], whole[:cut]
            )
        repairs: list[Repair] = []
        text = whole[: whole.index("Entry 5") + 30].encode()
        mend_json(
            Part("a.json", 1, "a", lambda: io.BytesIO(text)), io.BytesIO(), repairs.append
        )
        self.assertIn(("cut-off", '"Entry 5"'), [(one.code, one.before) for one in repairs])

    def test_lines(self) -> None:
        found, repairs = mended(b'{"a": 1}\n{"a": 2,}\n\n{"a": "x', "a.jsonl")
        self.assertEqual(
            (found, repairs), (b'{"a": 1}\n{"a": 2}\n\n', ["trailing-comma 2", "cut-off 4"])
        )

    @given(VALUES, st.sampled_from([None, 1, 4]), st.sampled_from([1, 5, 1 << 20]))
    def test_what_is_right_is_not_altered(
        self, value: object, indent: int | None, size: int
    ) -> None:
        text = json.dumps([value, {"a": value}], indent=indent, ensure_ascii=False)
        out: list[str] = []
        repairs: list[Repair] = []
        scanner = JsonScanner(out.append, repairs.append)
        for place in range(0, len(text), size):
            scanner.feed(text[place : place + size])
        scanner.finish()
        self.assertEqual(("".join(out), repairs), (text, []))

    def test_whatever_is_broken_becomes_right(self) -> None:
        data = json.dumps({"site": "x", "posts": [{"title": f"É {n}", "body": "<p>\"a\"</p>\n" * 5, "tags": ["a", "b"], "n": [n, {"k": None}]}
                                                  for n in range(40)]}, indent=1, ensure_ascii=False).encode()  # fmt: skip
        chance = random.Random("json")
        for number in range(300):
            text = broken(data, chance)
            found, _repairs = mended(text)
            if found.strip():
                json.loads(found)
                self.assertEqual(mended(found), (found, []), number)


class Command(FolderCase):
    def test_a_file(self) -> None:
        self.write(
            "a.json",
            '{"version": "https://jsonfeed.org/version/1", "title": "O", "items": [{"id": "1", "title": "Pears"}, {"id": "2", "ti',
        )
        self.assertIn("newburrow mend", self.refused("survey", "a.json"))
        printed = self.run_ok("mend", "a.json", "-o", "b.json", status=1)
        self.assertIn('AN ITEM THAT WAS CUT OFF, left out: "2"', printed)
        self.write("c.json", '[{"id": 1, "title": "Pears"},\n{"id": 2, "title": "Old ow')
        self.assertIn(
            'line 2: AN ITEM THAT WAS CUT OFF, left out: "Old ow',
            self.run_ok("mend", "c.json", "-o", "d.json", status=1),
        )
        self.assertEqual(self.survey("b.json")["counts"], {"post": 1})
        self.assertIn(
            "neither XML nor JSON",
            self.refused("mend", self.write("x.md", "[a](b)"), "-o", "y.md"),
        )
