"""Items of QTI 1.2 that ask several things: each is kept, with what is right in it and what it scores."""

import unittest

from newburrow.formats.qti1.item import read_item
from newburrow.model import Question
from tests.formats.cartridge.packages import choices, condition, equals, item, text
from tests.formats.qti1.test_items import PLACE, parsed

BLANK = '<response_str ident="b"><render_fib/></response_str>'
NUMBER = '<response_num ident="n"><render_fib fibtype="Decimal"/></response_num>'
TWO = text("One") + choices("a", "b", ident="p") + text("two") + choices("c", "d", ident="q")


class Composites(unittest.TestCase):
    def question(self, presentation: str, conditions: str, most: str = "100") -> Question:
        question, self.problems = read_item(
            parsed(item(presentation, conditions, most=most)), PLACE
        )
        return question

    def right(self, question: Question) -> dict[str, dict[str, float]]:
        return {part.key: {a.value: a.share for a in part.answers} for part in question.parts}

    def test_parts_that_score_one_by_one(self) -> None:
        rules = condition(equals("a", "p"), "1", "Add", "Yes") + condition(
            equals("d", "q"), "3", "Add", "Yes"
        )
        question = self.question(TWO, rules, most="4")
        self.assertEqual(
            (question.kind, question.points, question.is_partial), ("composite", 4.0, True)
        )
        self.assertEqual(question.prompt.text, "One ⟦p⟧ two ⟦q⟧")
        self.assertEqual(
            [(part.kind, part.points) for part in question.parts],
            [("choice", 1.0), ("choice", 3.0)],
        )
        self.assertEqual(self.right(question), {"p": {"a": 1.0}, "q": {"d": 1.0}})
        self.assertEqual(
            [c.name for part in question.parts for c in part.choices], ["a", "b", "c", "d"]
        )

    def test_parts_that_score_only_together(self) -> None:
        question = self.question(TWO, condition(equals("a", "p") + equals("d", "q"), "100"))
        self.assertEqual((question.is_partial, question.scoring), (False, ""))
        self.assertEqual([part.points for part in question.parts], [None, None])
        self.assertEqual(self.right(question), {"p": {"a": 1.0}, "q": {"d": 1.0}})

    def test_parts_of_different_kinds(self) -> None:
        within = '<and><vargte respident="n">2</vargte><varlte respident="n">4</varlte></and>'
        rules = "".join(
            condition(test, score, "Add", "Yes")
            for test, score in (
                (equals("a", "p"), "20"),
                (equals("bud", "b"), "50"),
                (within, "30"),
            )
        )
        question = self.question(choices("a", "b", ident="p") + BLANK + NUMBER, rules)
        self.assertEqual(
            [part.kind for part in question.parts], ["choice", "text-entry", "numerical"]
        )
        self.assertEqual([part.points for part in question.parts], [20.0, 50.0, 30.0])
        number = question.parts[2].answers[0]
        self.assertEqual((number.lower, number.upper, number.share), (2.0, 4.0, 1.0))

    def test_the_same_names_in_two_lists_are_no_match(self) -> None:
        """Rows of a match have the same choices; lists whose choices only have the same names do not."""
        other = choices("a", "b", ident="q").replace(">a<", ">red<").replace(">b<", ">green<")
        rules = condition(equals("a", "p"), "50", "Add", "Yes") + condition(
            equals("b", "q"), "50", "Add", "Yes"
        )
        question = self.question(choices("a", "b", ident="p") + other, rules)
        self.assertEqual(question.kind, "composite")
        texts = [choice.body.text for part in question.parts for choice in part.choices]
        self.assertEqual(texts, ["a", "b", "red", "green"])

    def test_a_field_without_a_right_answer_beside_one_with(self) -> None:
        why = BLANK.replace('"b"', '"why"')
        question = self.question(BLANK + why, condition(equals("bud", "b"), "100"))
        self.assertEqual([part.kind for part in question.parts], ["text-entry", "essay"])
        self.assertEqual([part.points for part in question.parts], [100.0, 0.0])

    def test_rules_that_are_not_understood_are_kept(self) -> None:
        quick = '<durlt respident="q">30</durlt>'
        question = self.question(TWO, condition(equals("a", "p") + quick, "100"))
        self.assertIn("durlt", question.scoring)
        self.assertEqual([problem.code for problem in self.problems], ["scoring-kept"])

    def test_places_in_a_picture_are_named_and_their_rules_kept(self) -> None:
        place = '<response_xy ident="r"><render_hotspot><response_label ident="h"/></render_hotspot></response_xy>'
        inside = '<varinside areatype="Rectangle" respident="r">1,1,5,5</varinside>'
        question = self.question(text("Click") + place, condition(inside, "100"))
        self.assertEqual(question.kind, "essay")
        self.assertIn("1,1,5,5", question.scoring)
        self.assertEqual([problem.code for problem in self.problems], ["interaction-unread"])

    def test_places_that_the_text_names_in_brackets(self) -> None:
        def asked(first: str, second: str, words: str = "An [fruit] on a [plant].") -> Question:
            rules = [
                condition(equals(name, ident), "50", "Add", "Yes")
                for ident, names in (("p", first), ("q", second))
                for name in names
                if name.isupper()
            ]
            lists = (
                choices(*first, ident="p", before=text("fruit")),
                choices(*second, ident="q", before=text("plant")),
            )
            return self.question(text(f"<p>{words}</p>") + "".join(lists), "".join(rules))

        lists = asked("Ab", "Cd")
        self.assertEqual((lists.kind, lists.is_partial), ("inline-choice", True))
        self.assertEqual(lists.prompt.text, "<p>An ⟦p⟧ on a ⟦q⟧.</p>")
        self.assertEqual([c.group for c in lists.choices], ["p", "p", "q", "q"])
        fields = asked(
            "AB", "C"
        )  # every choice is right: these are the texts that are accepted
        self.assertEqual((fields.kind, fields.choices), ("text-entry", ()))
        self.assertEqual(
            [(a.gap, a.value, a.share) for a in fields.answers],
            [("p", "A", 0.5), ("p", "B", 0.5), ("q", "C", 0.5)],
        )
        both = asked("Ab", "C")
        self.assertEqual([part.kind for part in both.parts], ["inline-choice", "text-entry"])
        self.assertEqual(both.prompt.text, "<p>An ⟦p⟧ on a ⟦q⟧.</p>")
        self.assertEqual(asked("Ab", "Ad").kind, "composite")  # a name stands for two choices
        for words in ("An [fruit].", "An [fruit] on a [plant], a [plant]."):
            unplaced = asked("Ab", "Cd", words)
            self.assertEqual(unplaced.prompt.text, f"<p>{words}</p> ⟦p⟧ ⟦q⟧")


class Rubrics(unittest.TestCase):
    def read(self, before: str, after: str = "", rules: str = "") -> Question:
        essay = item(
            text("Write.") + BLANK, rules, {"cc_profile": "cc.essay.v0p1"}, after=after
        )
        return read_item(
            parsed(essay.replace("<presentation>", f"{before}<presentation>")), PLACE
        )[0]

    def test_rubrics_by_who_sees_them(self) -> None:
        question = self.read(
            f'<rubric view="Tutor">{text("Three points.")}</rubric><rubric>{text("A page.")}</rubric>'
        )
        self.assertEqual(
            (question.prompt.text, question.rubric.text), ("A page.\nWrite.", "Three points.")
        )

    def test_a_solution_of_an_essay_is_for_teachers_unless_it_is_shown(self) -> None:
        after = f'<itemfeedback ident="s"><solution><solutionmaterial>{text("So.")}</solutionmaterial></solution></itemfeedback>'
        shown = '<respcondition><conditionvar><other/></conditionvar><displayfeedback linkrefid="s"/></respcondition>'
        hidden, told = self.read("", after), self.read("", after, shown)
        self.assertEqual((hidden.rubric.text, hidden.feedback), ("So.", ()))
        self.assertEqual((told.rubric.text, told.feedback[0].on), ("", "solution"))
