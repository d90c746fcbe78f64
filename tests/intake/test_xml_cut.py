"""Cutting a large feed in two."""

import io
import unittest

from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from newburrow.intake import xml_cut
from tests.helpers import SITE, item, rss

INNER = (
    "a",
    "<![CDATA[<item>no</item>]]>",
    "<!-- <item> -->",
    "<?x <item> ?>",
    "<![CDATA[]]]]><![CDATA[>]]>",
    "<p:item xmlns:p='u'/>",
    "\n",
)


def titles(data: bytes) -> list[str]:
    return [one.findtext("title") or "" for one in etree.fromstring(data).iter("item")]


class Cutting(unittest.TestCase):
    @given(
        st.lists(st.lists(st.sampled_from(INNER), max_size=4), min_size=2, max_size=12),
        st.floats(0, 1),
    )
    def test_two_halves_hold_every_item_once(
        self, inner: list[list[str]], where: float
    ) -> None:
        items = "".join(
            f"<item><title>{n}</title>{''.join(one)}</item>\n" for n, one in enumerate(inner)
        )
        data = f"<?xml version='1.0'?><!-- <item> --><rss><channel><title>T</title>\n{items}</channel></rss>".encode()
        cut = xml_cut.find(lambda: io.BytesIO(data), b"item", int(len(data) * where))
        if cut is None:
            self.assertGreater(where, 0.5)
            return
        halves = [
            half(lambda: io.BytesIO(data), cut)
            for half in (xml_cut.first_half, xml_cut.second_half)
        ]
        first, second = (
            b"".join(iter(lambda stream=stream: stream.read(7), b"")) for stream in halves
        )
        self.assertEqual(titles(first) + titles(second), titles(data))
        self.assertTrue(titles(first) and titles(second))
        self.assertEqual(cut.lines, data[cut.frame : cut.at].count(b"\n"))

    def test_what_cannot_be_cut_is_not(self) -> None:
        for data in (
            rss(item("T", SITE)).encode(), b"", b"<rss><channel>", rss(item("T", SITE), item("U", SITE)).encode("utf-16"),
            b"<rss><channel><a></b><item/><item/></channel></rss>",
        ):  # fmt: skip
            self.assertIsNone(xml_cut.find(lambda data=data: io.BytesIO(data), b"item", 0))
