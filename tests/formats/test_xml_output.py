"""Character data as XML takes it: read again it is what it was, but for what XML cannot hold."""

import re
import unittest

from hypothesis import example, given
from hypothesis import strategies as st
from lxml import etree

from newburrow.formats.xml_output import attribute, cdata, text

NOT_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
pieces = st.sampled_from(
    [
        *"ab<>&\"' \n\t]\x00\x0b\x1f\x7f\x85\u2028é\ud800\ufffe\uffff\ufffd\U0001f34f",
        "]]>",
        "&amp;",
        "<!--",
    ]
)


class CharacterData(unittest.TestCase):
    @given(st.lists(pieces, max_size=12).map("".join))
    @example("\ud800\n<")
    @example("\ufffe")
    def test_it_is_read_as_it_was(self, value: str) -> None:
        held = NOT_XML.sub("\ufffd", value)
        for made in (f"<a>{text(value)}</a>", f"<a>{cdata(value)}</a>"):
            self.assertEqual(etree.fromstring(made.encode()).text or "", held)
        self.assertEqual(etree.fromstring(f"<a b={attribute(value)}/>".encode()).get("b"), held)
