"""Items of QTI 2 with several interactions, and with interactions that are not read: nothing of them is lost."""

import io
import unittest

from lxml import etree

from newburrow.formats.item_place import ItemPlace
from newburrow.formats.qti2.item import read_item
from newburrow.model import Question, Where

PLACE = ItemPlace("quiz", "", 1, "", Where("item.xml"))
TEMPLATE = '<responseProcessing template="http://www.imsglobal.org/question/qti_v2p1/rptemplates/{0}"/>'


def choice(response: str, *names: str) -> str:
    listed = "".join(
        f'<simpleChoice identifier="{name}">{name.lower()}</simpleChoice>' for name in names
    )
    return f'<choiceInteraction responseIdentifier="{response}" maxChoices="1">{listed}</choiceInteraction>'


def declared(
    name: str, *right: str, type_: str = "identifier", mapping: str = "", several: bool = False
) -> str:
    values = "".join(f"<value>{value}</value>" for value in right)
    correct = f"<correctResponse>{values}</correctResponse>" if right else ""
    cardinality = "multiple" if several else "single"
    named = f'identifier="{name}" cardinality="{cardinality}" baseType="{type_}"'
    return f"<responseDeclaration {named}>{correct}{mapping}</responseDeclaration>"


def correct(name: str) -> str:
    return f'<match><variable identifier="{name}"/><correct identifier="{name}"/></match>'


def sets(value: str) -> str:
    return f'<setOutcomeValue identifier="SCORE">{value}</setOutcomeValue>'


def adds(value: str) -> str:
    return sets(f'<sum><variable identifier="SCORE"/>{value}</sum>')


def number(value: float) -> str:
    return f'<baseValue baseType="float">{value}</baseValue>'


def rule(test: str, action: str) -> str:
    return f"<responseCondition><responseIf>{test}{action}</responseIf></responseCondition>"


def processed(*rules: str) -> str:
    return f"<responseProcessing>{''.join(rules)}</responseProcessing>"


class ItemCase(unittest.TestCase):
    def question(
        self, declarations: str, body: str, processing: str, most: str = ""
    ) -> Question:
        outcome = f'<outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"{most}/>'
        root = etree.parse(
            io.BytesIO(
                f'<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="x" title="T">{declarations}'
                f"{outcome}<itemBody>{body}</itemBody>{processing}</assessmentItem>".encode()
            )
        ).getroot()
        question, problems = read_item(root, PLACE)
        self.codes = [problem.code for problem in problems]
        return question

    def points(self, question: Question) -> list[float | None]:
        return [part.points for part in question.parts]


class Composites(ItemCase):
    TWO = declared("R1", "A") + declared("R2", "B")
    BODY = f"<p>First</p>{choice('R1', 'A', 'B')}<p>Second</p>{choice('R2', 'A', 'B')}"

    def test_each_part_adds_its_points(self) -> None:
        rules = processed(
            rule(correct("R1"), adds(number(1))), rule(correct("R2"), adds(number(2)))
        )
        question = self.question(self.TWO, self.BODY, rules)
        self.assertEqual(
            (question.kind, question.points, question.is_partial), ("composite", 3.0, True)
        )
        self.assertEqual(question.prompt.text, "<p>First</p> ⟦R1⟧ <p>Second</p> ⟦R2⟧")
        self.assertEqual(self.points(question), [1.0, 2.0])
        self.assertEqual([part.answers[0].value for part in question.parts], ["A", "B"])

    def test_all_parts_together(self) -> None:
        together = f"<and>{correct('R1')}{correct('R2')}</and>"
        question = self.question(
            self.TWO, self.BODY, processed(rule(together, sets(number(2))))
        )
        self.assertEqual(
            (question.points, question.is_partial, question.scoring), (2.0, False, "")
        )
        self.assertEqual(self.points(question), [None, None])

    def test_mapped_parts_are_added_up(self) -> None:
        mapping = '<mapping><mapEntry mapKey="quince" mappedValue="2"/><mapEntry mapKey="medlar" mappedValue="1"/></mapping>'
        total = processed(
            sets('<sum><mapResponse identifier="R1"/><mapResponse identifier="T"/></sum>')
        )
        one = '<mapping><mapEntry mapKey="A" mappedValue="1"/></mapping>'
        question = self.question(
            declared("R1", "A", mapping=one)
            + declared("T", "quince", type_="string", mapping=mapping),
            f'<p>Take <textEntryInteraction responseIdentifier="T"/></p>{choice("R1", "A", "B")}',
            total,
        )
        self.assertEqual(question.points, 3.0)
        self.assertEqual(
            [(part.key, part.points) for part in question.parts], [("T", 2.0), ("R1", 1.0)]
        )
        self.assertEqual([answer.share for answer in question.parts[0].answers], [1.0, 0.5])

    def test_points_that_no_rule_gives_are_given_by_hand(self) -> None:
        body = f'{choice("R1", "A", "B")}<extendedTextInteraction responseIdentifier="E"><prompt>Why?</prompt></extendedTextInteraction>'
        question = self.question(
            declared("R1", "A") + declared("E", type_="string"),
            body,
            processed(rule(correct("R1"), adds(number(1)))),
            ' normalMaximum="5"',
        )
        self.assertEqual((question.points, self.points(question)), (5.0, [1.0, 4.0]))
        self.assertEqual(question.parts[1].prompt.text, "Why?")

    def test_a_template_for_the_only_part_with_an_answer(self) -> None:
        body = f'{choice("R1", "A", "B")}<extendedTextInteraction responseIdentifier="E"/>'
        responses = declared("R1", "A") + declared("E", type_="string")
        question = self.question(responses, body, TEMPLATE.format("match_correct"))
        self.assertEqual((question.points, self.points(question)), (1.0, [1.0, 0.0]))

    def test_other_rules_are_kept(self) -> None:
        for rules in (
            processed(sets(f'<sum>{number(1)}<mapResponse identifier="R1"/></sum>')),
            processed(
                rule(correct("R1"), sets(number(1))), rule(correct("R2"), sets(number(1)))
            ),
            processed(rule(f"<or>{correct('R1')}{correct('R2')}</or>", adds(number(1)))),
        ):
            question = self.question(self.TWO, self.BODY, rules)
            self.assertIn("responseProcessing", question.scoring, rules)
            self.assertEqual((self.codes, len(question.parts)), (["scoring-kept"], 2))

    def test_numbers_and_words_in_one_text(self) -> None:
        body = '<p><textEntryInteraction responseIdentifier="R1"/> <textEntryInteraction responseIdentifier="R2"/></p>'
        both = processed(
            rule(correct("R1"), adds(number(1))), rule(correct("R2"), adds(number(1)))
        )
        for type_, kind in (("float", "composite"), ("string", "text-entry")):
            question = self.question(
                declared("R1", "7", type_=type_) + declared("R2", "x", type_="string"),
                body,
                both,
            )
            self.assertEqual(question.kind, kind)


class Unread(ItemCase):
    """What of an item is not read is named, and kept for teachers."""

    def test_an_interaction_that_is_not_read_is_kept_whole(self) -> None:
        spots = (
            '<hotspotInteraction responseIdentifier="{0}" maxChoices="1"><prompt>Where?</prompt><object data="bud.png" '
            'type="image/png">bud</object><hotspotChoice identifier="H" shape="circle" coords="5,5,2"/></hotspotInteraction>'
        )
        alone = self.question(
            declared("R", "H"), spots.format("R"), TEMPLATE.format("match_correct")
        )
        self.assertEqual((alone.kind, self.codes), ("essay", ["interaction-unread"]))
        self.assertIn('src="bud.png"', alone.prompt.text)
        self.assertIn("5,5,2", alone.scoring)
        rules = processed(
            rule(correct("R1"), adds(number(1))), rule(correct("H"), adds(number(2)))
        )
        both = self.question(
            declared("R1", "A") + declared("H", "H"),
            choice("R1", "A", "B") + spots.format("H"),
            rules,
        )
        self.assertEqual((self.codes, self.points(both)), (["interaction-unread"], [1.0, 2.0]))
        self.assertIn("5,5,2", both.parts[1].scoring)

    def test_numbers_made_for_each_student_are_named(self) -> None:
        template = (
            '<templateDeclaration identifier="X" cardinality="single" baseType="integer"/>'
        )
        question = self.question(
            declared("RESPONSE", "3", type_="integer") + template,
            '<p><printedVariable identifier="X"/> + 2? <textEntryInteraction responseIdentifier="RESPONSE"/></p>',
            TEMPLATE.format("match_correct"),
        )
        self.assertEqual(self.codes, ["item-rule-unread"])
        self.assertIn("<var>X</var>", question.prompt.text)

    def test_choices_that_a_mapping_does_not_list_cost_its_default(self) -> None:
        mapping = '<mapping defaultValue="-1"><mapEntry mapKey="A" mappedValue="2"/></mapping>'
        question = self.question(
            declared("RESPONSE", "A", mapping=mapping, several=True),
            choice("RESPONSE", "A", "B", "C"),
            TEMPLATE.format("map_response"),
        )
        shares = {answer.value: answer.share for answer in question.answers}
        self.assertEqual(shares, {"A": 1.0, "B": -0.5, "C": -0.5})
