"""JSON as a stream: any valid document, cut anywhere by any buffer, and wrong ones with their place."""

import io
import json
import unittest
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from newburrow.core.problem import BurrowError
from newburrow.formats import json_stream

texts = st.text() | st.text('"\\[]{},: \n\t/é日\U0001f989', max_size=30)
values = st.recursive(
    st.none()
    | st.booleans()
    | st.integers()
    | st.floats(allow_nan=False, allow_infinity=False)
    | texts,
    lambda inner: st.lists(inner, max_size=5) | st.dictionaries(texts, inner, max_size=5),
    max_leaves=25,
)
WHITE = ("", " ", "\n", "\t\r\n  ")


def is_item(steps: json_stream.Steps) -> bool:
    return steps == ("items", None)


def found(text: bytes) -> list[tuple[int, object]]:
    stream = json_stream.values(io.BytesIO(text), "feed.json", is_item)
    return [(value.line, value.value) for value in stream]


class AnyDocument(unittest.TestCase):
    @settings(max_examples=300, deadline=None)
    @given(
        st.lists(values, max_size=6),
        values,
        values,
        st.sampled_from(WHITE),
        st.integers(1, 80),
        st.booleans(),
    )
    def test_whatever_the_buffer_holds(
        self,
        items: list[object],
        head: object,
        tail: object,
        white: str,
        chunk: int,
        ascii_only: bool,
    ) -> None:
        def written(value: object) -> str:
            return white + json.dumps(
                value,
                ensure_ascii=ascii_only,
                separators=(f"{white},{white}", f"{white}:{white}"),
            )

        listed = f"{white},\n".join(map(written, items))
        text = f'{{"head":{written(head)},"items":[\n{listed}{white}],"tail":{written(tail)}}}{white}'
        data = text.encode("utf-8", "surrogatepass" if ascii_only else "replace")
        expected = json.loads(data.decode("utf-8"))["items"]
        with mock.patch.object(json_stream, "_CHUNK", chunk):
            got = found(data)
        self.assertEqual(
            [json.dumps(value) for _line, value in got],
            [json.dumps(json_stream._without_surrogates(value)) for value in expected],
        )
        lines = data.split(b"\n")
        for line, value in got:
            first = json.dumps(value, ensure_ascii=False)[:1].encode()
            self.assertTrue(first in b'[{"tfn-0123456789' and line <= len(lines))

    def test_a_bracket_in_a_text_that_the_buffer_cuts(self) -> None:
        body = "a [list} of {things] " * 20_000
        data = json.dumps({"items": [{"id": n, "text": body} for n in range(3)]}).encode()
        self.assertGreater(len(data), 4 * (1 << 18))
        self.assertEqual([value["text"] for _line, value in found(data)], [body] * 3)  # type: ignore[index]

    def test_lines_are_those_of_the_file(self) -> None:
        data = b'{\n"items": [\n{"a": 1},\n\n{"a":\n2}, {"a": 3},\n[4]]}'
        self.assertEqual([line for line, _value in found(data)], [3, 5, 6, 7])

    def test_items_nested_deeper_than_one_look(self) -> None:
        deep: object = 1
        for level in range(60):
            deep = [deep] if level % 2 else {"a": deep}
        data = json.dumps({"items": [deep, {"b": 2}]}).encode()
        self.assertEqual([value for _line, value in found(data)], [deep, {"b": 2}])

    def test_half_a_character_is_replaced(self) -> None:
        self.assertEqual(found(b'{"items": ["a\\ud800b", "\\udc00", "\\ud83e\\udd89"]}'),
                         [(1, "a\ufffdb"), (1, "\ufffd"), (1, "\U0001f989")])  # fmt: skip


class WrongDocuments(unittest.TestCase):
    def test_each_is_refused_with_its_place(self) -> None:
        for text, place, words in (
            (b'{"items": [{"a": 1},\n {"a": tru}]}', "line 2", "expecting value"),
            (b'{"items": [{"a": 1},\n\n {"a": 1]]}', "line 3", ""),
            (
                b'{"items": [{"a": 1}\n {"a": 1}]}',
                "line 2",
                "a comma or an end bracket is missing",
            ),
            (b'{"items": [{"a": "x\n', "line 2", "ends too early"),
            (b'{"items": [NaN]}', "line 1", "NaN"),
            (b'{"items": ["\xff"]}', "line 1", "byte 0xFF is not UTF-8"),
            (b'{"items": []} x', "line 1", "there is something after the end"),
            (
                b'{"items": [' + b"[" * 300 + b"]" * 300 + b"]}",
                "line 1",
                "nested deeper than 200 levels",
            ),
        ):
            for chunk in (3, 1 << 18):
                with self.subTest(text), mock.patch.object(json_stream, "_CHUNK", chunk):
                    with self.assertRaises(BurrowError) as caught:
                        found(text)
                    said = str(caught.exception)
                    self.assertIn(place, said)
                    self.assertIn(words.lower(), said.lower())
