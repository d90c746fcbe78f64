"""Items of QTI 1.2: what is written is read the same, and the forms that other programs write are understood."""

import io
import unittest

from hypothesis import given, settings
from lxml import etree

from newburrow.formats.qti1.item import ItemPlace, read_item
from newburrow.formats.qti1.item_writer import KINDS, item
from newburrow.model import Question, Where
from newburrow.verify.questions import facts
from tests.formats.generated_questions import questions

PLACE = ItemPlace("quiz", "", 1, "", Where("quiz.xml"))


def read(text: str) -> Question:
    root = etree.parse(io.BytesIO(text.encode())).getroot()
    return read_item(root, PLACE)[0]


class RoundTrip(unittest.TestCase):
    @settings(max_examples=300, deadline=None)
    @given(questions(tuple(kind for kind in KINDS if kind != "true-false")))
    def test_what_is_written_is_read_the_same(self, question: Question) -> None:
        made = item(question, "q", lambda body: body.text)
        self.assertEqual(facts(read(made)), facts(question), made)
