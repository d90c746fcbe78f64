"""Right answers of QTI 2 by the tests of response processing, in the forms that other programs write."""

from newburrow.model import Answer
from tests.formats.qti2.test_composites import (
    ItemCase,
    adds,
    choice,
    correct,
    declared,
    number,
    processed,
    rule,
    sets,
)

BLANK = '<p>x <textEntryInteraction responseIdentifier="{0}"/></p>'
VARIABLE = '<variable identifier="RESPONSE"/>'
CORRECT = '<correct identifier="RESPONSE"/>'


def base(value: str, type_: str = "identifier") -> str:
    return f'<baseValue baseType="{type_}">{value}</baseValue>'


class Tests(ItemCase):
    def answers(self, declaration: str, body: str, *rules: str) -> tuple[Answer, ...]:
        self.asked = self.question(declaration, body, processed(*rules))
        return self.asked.answers

    def test_numbers_near_the_right_one(self) -> None:
        near = "<equal toleranceMode='{0}' tolerance='{1}'>" + VARIABLE + CORRECT + "</equal>"
        for test, lower, upper in (
            (near.format("absolute", "0.5"), 9.5, 10.5),
            (near.format("absolute", "1 2"), 9.0, 12.0),
            (near.format("relative", "10"), 9.0, 11.0),
            (near.format("exact", "0"), 10.0, 10.0),
            (
                f'<equalRounded roundingMode="decimalPlaces" figures="1">{VARIABLE}{CORRECT}</equalRounded>',
                9.95,
                10.05,
            ),
            (f"<equal>{VARIABLE}{base('7', 'float')}</equal>", 7.0, 7.0),
        ):
            rules = rule(test, sets(number(1)))
            (answer,) = self.answers(
                declared("RESPONSE", "10", type_="float"), BLANK.format("RESPONSE"), rules
            )
            self.assertEqual((answer.lower, answer.upper), (lower, upper), test)
            self.assertEqual(self.asked.scoring, "", test)

    def test_an_answer_that_is_worth_less(self) -> None:
        other = f"<match>{VARIABLE}{base('B')}</match>"
        rules = rule(correct("RESPONSE"), sets(number(2))).replace(
            "</responseCondition>",
            f"<responseElseIf>{other}{sets(number(1))}</responseElseIf></responseCondition>",
        )
        found = self.answers(
            declared("RESPONSE", "A"), choice("RESPONSE", "A", "B", "C"), rules
        )
        self.assertEqual({answer.value: answer.share for answer in found}, {"A": 1.0, "B": 0.5})
        self.assertEqual(self.asked.points, 2.0)

    def test_texts(self) -> None:
        string = declared("RESPONSE", "Quince", type_="string")
        for test, value, case, part in (
            (
                f'<stringMatch caseSensitive="false">{VARIABLE}{CORRECT}</stringMatch>',
                "Quince",
                False,
                False,
            ),
            (
                f'<stringMatch caseSensitive="true" substring="true">{VARIABLE}{base("uin", "string")}</stringMatch>',
                "uin",
                True,
                True,
            ),
            (f"<match>{VARIABLE}{base('quince', 'string')}</match>", "quince", True, False),
        ):
            (answer,) = self.answers(
                string, BLANK.format("RESPONSE"), rule(test, sets(number(1)))
            )
            self.assertEqual(
                (answer.value, answer.case_sensitive, answer.is_pattern),
                (value, case, part),
                test,
            )

    def test_gaps_that_add_their_points(self) -> None:
        body = BLANK.format("g1") + BLANK.format("g2")
        both = declared("g1", "a", type_="string") + declared("g2", "b", type_="string")
        found = self.answers(
            both,
            body,
            rule(correct("g1"), adds(number(1))),
            rule(correct("g2"), adds(number(3))),
        )
        self.assertEqual(
            [(a.gap, a.value, a.share) for a in found], [("g1", "a", 0.25), ("g2", "b", 0.75)]
        )
        self.assertEqual(
            (self.asked.kind, self.asked.points, self.asked.is_partial),
            ("text-entry", 4.0, True),
        )
        part = f'<stringMatch caseSensitive="false" substring="true"><variable identifier="g2"/>{base("b", "string")}</stringMatch>'
        self.answers(
            both, body, rule(correct("g1"), adds(number(1))), rule(part, adds(number(3)))
        )
        self.assertEqual([p.kind for p in self.asked.parts], ["text-entry", "pattern-match"])

    def test_rules_that_say_more_are_kept(self) -> None:
        several = declared("RESPONSE", "A", several=True)
        for test in (
            f"<match>{VARIABLE}{base('B')}</match>",
            f"<patternMatch pattern='A.*'>{VARIABLE}</patternMatch>",
            f"<equal toleranceMode='absolute' tolerance='wide'>{VARIABLE}{CORRECT}</equal>",
            f"<stringMatch>{VARIABLE}<variable identifier='OTHER'/></stringMatch>",
        ):
            self.answers(several, choice("RESPONSE", "A", "B"), rule(test, sets(number(1))))
            self.assertIn("responseCondition", self.asked.scoring, test)

    def test_what_a_student_must_do_is_named(self) -> None:
        body = choice("RESPONSE", "A", "B").replace("maxChoices", 'minChoices="1" maxChoices')
        self.answers(
            declared("RESPONSE", "A"), body, rule(correct("RESPONSE"), sets(number(1)))
        )
        self.assertEqual(self.codes, ["item-rule-unread"])
