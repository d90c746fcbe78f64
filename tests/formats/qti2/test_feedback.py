"""Feedback of QTI 2 by the rules that show it, whatever it is called, and rubrics by who sees them."""

from tests.formats.qti2.test_composites import (
    ItemCase,
    choice,
    correct,
    declared,
    number,
    processed,
    sets,
)

CHOICE = choice("RESPONSE", "A", "B")
RIGHT = declared("RESPONSE", "A")


def modal(name: str) -> str:
    return f'<modalFeedback outcomeIdentifier="FB" identifier="{name}" showHide="show"><p>{name}</p></modalFeedback>'


def shows(name: str) -> str:
    value = f'<baseValue baseType="identifier">{name}</baseValue>'
    return f'<setOutcomeValue identifier="FB"><multiple><variable identifier="FB"/>{value}</multiple></setOutcomeValue>'


def given(value: str) -> str:
    return f'<match><variable identifier="RESPONSE"/><baseValue baseType="identifier">{value}</baseValue></match>'


def score_reaches(value: float, test: str = "gte") -> str:
    return f'<{test}><variable identifier="SCORE"/>{number(value)}</{test}>'


class Feedback(ItemCase):
    def shown_on(self, *rules: str) -> dict[str, str]:
        """What the feedback `f1`, `f2`, ... is shown on, by rules that name them."""
        names = [f"f{n}" for n in range(1, 4)]
        body = f"{CHOICE}</itemBody>{processed(*rules)}{''.join(map(modal, names))}<itemBody>"
        question = self.question(RIGHT, body, "", ' normalMaximum="2"')
        return {told.body.text: told.on for told in question.feedback}

    def test_rules_say_what_it_is_shown_on(self) -> None:
        condition = "<responseCondition><responseIf>{0}{1}</responseIf>{2}</responseCondition>"
        otherwise = f"<responseElse>{shows('f2')}</responseElse>"
        for test, first, second in (
            (correct("RESPONSE"), "right", "wrong"),
            (f"<not>{correct('RESPONSE')}</not>", "wrong", "any"),
            (given("B"), "B", "any"),
            (score_reaches(2), "right", "wrong"),
            (score_reaches(1), "any", "any"),
            (score_reaches(2, "lt"), "wrong", "any"),
        ):
            found = self.shown_on(condition.format(test, shows("f1"), otherwise), shows("f3"))
            wanted = {"<p>f1</p>": first, "<p>f2</p>": second, "<p>f3</p>": "any"}
            self.assertEqual(found, wanted, test)

    def test_names_where_no_rule_is_plain(self) -> None:
        body = f"{CHOICE}</itemBody>{''.join(map(modal, ('correct', 'incorrect', 'B', 'solution')))}<itemBody>"
        question = self.question(RIGHT, body, "")
        self.assertEqual(
            [told.on for told in question.feedback], ["right", "wrong", "B", "solution"]
        )

    def test_rubrics(self) -> None:
        rubrics = '<rubricBlock view="candidate tutor"><p>Read well.</p></rubricBlock><rubricBlock view="scorer"><p>Be kind.</p></rubricBlock>'
        question = self.question(RIGHT, rubrics + CHOICE, processed(sets(number(1))))
        self.assertIn("Read well.", question.prompt.text)
        self.assertEqual(question.rubric.text, "<p>Be kind.</p>")
