"""XML files of packages: small ones are parsed at once, large ones element by element, with the same outcome."""

import io
import unittest
from collections.abc import Iterator
from unittest import mock

from newburrow.core.problem import BurrowError
from newburrow.formats import xml_stream
from newburrow.formats.xml_names import attribute

HEAD = '<?xml version="1.0" encoding="{0}"?>\n'
ITEMS = '<list xmlns="urn:orchard">\n<item name="Quince"/>\n<item name="Médlar"><!-- - --><part/></item>\n{0}</list>'


def found(data: bytes, small: int = xml_stream._SMALL) -> Iterator[tuple[str, str]]:
    """The events of items, where files of so many bytes are parsed element by element."""
    with mock.patch.object(xml_stream, "_SMALL", small):
        for event, name, element in xml_stream.events(
            lambda: io.BytesIO(data), "list.xml", ("item", "part"), "item"
        ):
            yield event, f"{name} {attribute(element, 'name')}".strip()


class Events(unittest.TestCase):
    def test_small_and_large_files_give_the_same(self) -> None:
        for encoding in ("utf-8", "utf-16", "iso-8859-1"):
            data = (HEAD + ITEMS.format("")).format(encoding).encode(encoding)
            expected = [("start", "item Quince"), ("end", "item Quince"), ("start", "item Médlar"),
                        ("start", "part"), ("end", "part"), ("end", "item Médlar")]  # fmt: skip
            self.assertEqual(list(found(data)), expected)
            self.assertEqual(list(found(data, len(data))), expected)
            self.assertEqual(list(found(data, len(data) - 8)), expected)

    def test_what_stands_before_a_fault_is_given(self) -> None:
        data = ITEMS.format("<item>\n</wrong>").encode()
        for small in (xml_stream._SMALL, 16):
            given = []
            with self.assertRaises(BurrowError) as caught:
                for event in found(data, small):
                    given.append(event)
            self.assertEqual(caught.exception.problem.code, "not-well-formed")
            self.assertEqual(caught.exception.problem.where.line, 5)
            self.assertGreaterEqual(len(given), 6)

    def test_entities_are_refused_in_any_encoding(self) -> None:
        declared = '<!DOCTYPE list [<!ENTITY pear "pear">]>\n'
        for encoding in ("utf-8", "utf-16", "iso-2022-jp"):
            data = (HEAD.format(encoding) + declared + "<list a='&pear;'/>").encode(encoding)
            for read in (xml_stream.root_of, lambda *file: list(xml_stream.events(*file))):
                with self.assertRaises(BurrowError) as caught:
                    read(lambda data=data: io.BytesIO(data), "list.xml")
                self.assertEqual(caught.exception.problem.code, "entity-declaration")


if __name__ == "__main__":
    unittest.main()
