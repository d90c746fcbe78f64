"""Items of QTI 2.1: what is written is read the same, and the forms that other programs write are understood."""

import io
import unittest

from hypothesis import given, settings
from lxml import etree

from newburrow.formats.qti2.item import ItemPlace, read_item
from newburrow.formats.qti2.item_writer import item
from newburrow.model import Question, Where
from newburrow.verify.questions import facts
from tests.formats.generated_questions import questions

PLACE = ItemPlace("quiz", "", 1, "", Where("item.xml"))
KINDS = ("choice", "multiple-choice", "text-entry", "pattern-match", "numerical", "match", "order", "inline-choice",
         "essay", "upload")  # fmt: skip


def read(text: str) -> Question:
    root = etree.parse(io.BytesIO(text.encode())).getroot()
    return read_item(root, PLACE)[0]


class RoundTrip(unittest.TestCase):
    @settings(max_examples=300, deadline=None)
    @given(questions(KINDS))
    def test_what_is_written_is_read_the_same(self, question: Question) -> None:
        made = item(question, "q", lambda body: body.text)
        self.assertEqual(facts(read(made)), facts(question), made)
