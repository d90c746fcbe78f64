"""Items of QTI 2.1: what is written is read the same, and the forms that other programs write are understood."""

import io
import re
import unittest

from hypothesis import given, settings
from lxml import etree

from newburrow.formats.item_place import ItemPlace
from newburrow.formats.qti2.item import read_item
from newburrow.formats.qti2.item_writer import item
from newburrow.model import Question, Where
from newburrow.verify.question_facts import facts
from tests.formats.generated_questions import composites, questions

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

    @settings(max_examples=300, deadline=None)
    @given(composites())
    def test_composites_are_read_the_same(self, question: Question) -> None:
        made = item(question, "q", lambda body: body.text)
        self.assertEqual(facts(read(made)), facts(question), made)
        identifiers = re.findall(
            r' (?:responseI|i)dentifier="([^"]*)"',
            made.partition("<itemBody>")[2].partition("</itemBody>")[0],
        )
        self.assertEqual(len(identifiers), len(set(identifiers)), made)
        self.assertNotRegex(made, r"<(p|em)>(?:(?!</\1>).)*<choiceInteraction")


class OfOtherPrograms(unittest.TestCase):
    BODY = (
        '<itemBody><p>Q</p><choiceInteraction responseIdentifier="RESPONSE" maxChoices="{0}">'
        '<simpleChoice identifier="A">a</simpleChoice><simpleChoice identifier="B">b</simpleChoice></choiceInteraction></itemBody>'
    )

    def question(
        self, cardinality: str, declared: str, processing: str, most: int = 1
    ) -> Question:
        space = "http://www.imsglobal.org/xsd/imsqti_v2p2"
        return read(
            f'<assessmentItem xmlns="{space}" identifier="x" title="T"><responseDeclaration identifier="RESPONSE" '
            f'cardinality="{cardinality}" baseType="identifier">{declared}</responseDeclaration>'
            f'<outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>'
            f"{self.BODY.format(most)}{processing}</assessmentItem>"
        )

    def test_templates(self) -> None:
        right = "<correctResponse><value>B</value></correctResponse>"
        template = '<responseProcessing template="http://www.imsglobal.org/question/qti_v2p2/rptemplates/{0}"/>'
        question = self.question("single", right, template.format("match_correct"))
        self.assertEqual((question.points, [a.value for a in question.answers]), (1.0, ["B"]))
        mapped = '<mapping upperBound="3"><mapEntry mapKey="A" mappedValue="-1"/><mapEntry mapKey="B" mappedValue="3"/></mapping>'
        question = self.question("multiple", right + mapped, template.format("map_response"), 0)
        self.assertEqual(question.points, 3.0)
        self.assertEqual(
            {a.value: a.share for a in question.answers}, {"A": round(-1 / 3, 9), "B": 1.0}
        )

    def test_rules_that_say_what_a_template_says(self) -> None:
        right = "<correctResponse><value>A</value></correctResponse>"
        rules = (
            "<responseProcessing><responseCondition><responseIf><match><variable identifier='RESPONSE'/>"
            "<correct identifier='RESPONSE'/></match><setOutcomeValue identifier='SCORE'><baseValue baseType='float'>2"
            "</baseValue></setOutcomeValue></responseIf><responseElse><setOutcomeValue identifier='SCORE'>"
            "<baseValue baseType='float'>{0}</baseValue></setOutcomeValue></responseElse></responseCondition></responseProcessing>"
        )
        question = self.question("single", right, rules.format(0))
        self.assertEqual((question.points, question.scoring), (2.0, ""))
        self.assertIn("responseElse", self.question("single", right, rules.format(1)).scoring)
        self.assertIn("random", self.question("single", right, "<responseProcessing><setOutcomeValue identifier='SCORE'>"
                                              "<random/></setOutcomeValue></responseProcessing>").scoring)  # fmt: skip

    def test_letter_case_counts_unless_the_item_says_otherwise(self) -> None:
        entries = (
            '<mapEntry mapKey="Quince" mappedValue="1"/><mapEntry mapKey="quince" mappedValue="0.5"/>'
            '<mapEntry mapKey="Vranja" mappedValue="1" caseSensitive="false"/>'
        )
        template = '<responseProcessing template="map_response"/>'
        question = read(self.item_of_text(f"<mapping>{entries}</mapping>", template))
        self.assertEqual(
            [
                (answer.value, answer.share, answer.case_sensitive)
                for answer in question.answers
            ],
            [("Quince", 1.0, True), ("quince", 0.5, True), ("Vranja", 1.0, False)],
        )
        made = item(question, "q", lambda body: body.text)
        self.assertEqual(facts(read(made)), facts(question), made)
        self.assertEqual(made.count('caseSensitive="false"'), 1)

    def test_right_answers_that_nothing_scores(self) -> None:
        mapping = '<mapping><mapEntry mapKey="Quince" mappedValue="2"/><mapEntry mapKey="Pear" mappedValue="1"/></mapping>'
        right = "<correctResponse><value>Quince</value></correctResponse>"
        for declared, values in ((right, ["Quince"]), (right + mapping, ["Quince", "Pear"])):
            text = self.item_of_text(declared, "")
            root = etree.fromstring(text)
            question, problems = read_item(root, PLACE)
            self.assertEqual(question.points, None)
            self.assertEqual([answer.value for answer in question.answers], values)
            self.assertEqual([problem.code for problem in problems], ["question-doubtful"])
            made = item(question, "q", lambda body: body.text)
            self.assertNotIn("responseProcessing", made)
            self.assertEqual(facts(read(made)), facts(question), made)

    def test_pictures_that_are_dragged_into_a_gap(self) -> None:
        picture = '<gapImg identifier="A" matchMax="1"><object data="a%20b.png" type="image/png">An apple</object></gapImg>'
        question = read(
            '<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="x" title="T">'
            '<responseDeclaration identifier="RESPONSE" cardinality="multiple" baseType="directedPair"><correctResponse>'
            "<value>A G</value></correctResponse></responseDeclaration><itemBody>"
            f'<gapMatchInteraction responseIdentifier="RESPONSE" shuffle="false">{picture}'
            '<gapText identifier="B" matchMax="0">pear</gapText><p>The <gap identifier="G"/> is red.</p>'
            "</gapMatchInteraction></itemBody></assessmentItem>"
        )
        made = item(question, "q", lambda body: body.text)
        self.assertIn(picture, made)
        self.assertEqual(facts(read(made)), facts(question), made)

    def item_of_text(self, declared: str, processing: str) -> str:
        return (
            '<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="x" title="T">'
            '<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="string">'
            f'{declared}</responseDeclaration><itemBody><p><textEntryInteraction responseIdentifier="RESPONSE"/></p>'
            f"</itemBody>{processing}</assessmentItem>"
        )
