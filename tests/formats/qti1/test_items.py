"""Items of QTI 1.2: what is written is read the same, and the forms that other programs write are understood."""

import io
import unittest

from hypothesis import given, settings
from lxml import etree

from newburrow.formats.item_place import ItemPlace
from newburrow.formats.qti1.item import read_item
from newburrow.formats.qti1.item_writer import KINDS, item
from newburrow.model import Question, Where
from newburrow.verify.question_facts import facts
from tests.formats.cartridge.packages import choices, condition, equals, text
from tests.formats.cartridge.packages import item as item_of
from tests.formats.generated_questions import questions

PLACE = ItemPlace("quiz", "", 1, "", Where("quiz.xml"))


def parsed(text: str) -> etree._Element:
    return etree.parse(io.BytesIO(text.encode())).getroot()


def read(text: str) -> Question:
    return read_item(parsed(text), PLACE)[0]


class RoundTrip(unittest.TestCase):
    @settings(max_examples=300, deadline=None)
    @given(questions(tuple(kind for kind in KINDS if kind != "true-false")))
    def test_what_is_written_is_read_the_same(self, question: Question) -> None:
        made = item(question, "q", lambda body: body.text)
        self.assertEqual(facts(read(made)), facts(question), made)


class OfOtherPrograms(unittest.TestCase):
    def question(self, presentation: str, conditions: str, **more: str) -> Question:
        return read(item_of(presentation, conditions, **more))

    def test_scores_are_tried(self) -> None:
        """What scores is found whatever the rules look like."""
        for presentation, conditions, kind, answers, is_partial in (
            (choices("a", "b"), condition(equals("b"), "100"), "choice", {"b": 1.0}, False),
            (choices("a", "b"), condition(f"<not>{equals('a')}</not>", "100"), "choice", {"b": 1.0}, False),
            (choices("a", "b"), condition(f"<or>{equals('a')}{equals('b')}</or>", "50"), "choice", {"a": 0.5, "b": 0.5}, False),
            (
                choices("a", "b", "c", cardinality="Multiple"),
                condition(f"<and>{equals('a')}{equals('c')}<not>{equals('b')}</not></and>", "100"),
                "multiple-choice", {"a": 1.0, "c": 1.0}, False,
            ),
            (
                choices("a", "b", "c", cardinality="Multiple"),
                condition(equals("a"), "50", "Add", "Yes") + condition(equals("c"), "50", "Add", "Yes") + condition(equals("b"), "50", "Subtract", "Yes"),
                "multiple-choice", {"a": 0.5, "b": -0.5, "c": 0.5}, True,
            ),
        ):  # fmt: skip
            question = self.question(presentation, conditions)
            self.assertEqual(question.kind, kind)
            self.assertEqual({a.value: a.share for a in question.answers}, answers, conditions)
            self.assertEqual(question.is_partial, is_partial)
            self.assertEqual(question.scoring, "")

    def test_choices_that_count_by_themselves_whatever_they_add_up_to(self) -> None:
        presentation = choices("a", "b", "c", cardinality="Multiple")
        for values in ({"a": 100}, {"a": 200, "b": 33}, {"a": 100, "b": 100, "c": -50}):
            rules = [
                condition(equals(name), str(value), "Add", "Yes")
                for name, value in values.items()
            ]
            question = self.question(presentation, "".join(rules))
            self.assertTrue(question.is_partial)
            self.assertEqual({a.value: a.share * 100 for a in question.answers}, values)
            made = item(question, "q", lambda body: body.text)
            self.assertEqual(facts(read(made)), facts(question), made)

    def test_a_score_under_another_name(self) -> None:
        """The variable that counts can be called as its author likes, where there is no other."""
        for name in ("Score", "que_score", "points"):
            whole = item_of(choices("a", "b"), condition(equals("b"), "3"), most="3")
            question = read(whole.replace('varname="SCORE"', f'varname="{name}"'))
            self.assertEqual([(a.value, a.share) for a in question.answers], [("b", 1.0)], name)
            self.assertEqual(question.points, 3.0)

    def test_a_match_of_several_responses(self) -> None:
        left = [choices("x", "y", ident=name, before=text(name)) for name in ("p", "q")]
        right = condition(equals("x", "p"), "50", "Add", "Yes") + condition(
            equals("y", "q"), "50", "Add", "Yes"
        )
        question = self.question("".join(left), right)
        self.assertEqual(question.kind, "match")
        self.assertEqual(
            {(a.value, a.partner, a.share) for a in question.answers},
            {("p", "x", 0.5), ("q", "y", 0.5)},
        )
        self.assertEqual(
            [c.group for c in question.choices], ["source", "source", "target", "target"]
        )

    def test_numbers(self) -> None:
        blank = '<response_num ident="r"><render_fib fibtype="Decimal"/></response_num>'
        within = (
            '<and><vargte respident="r">1.5</vargte><varlte respident="r">2.5</varlte></and>'
        )
        question = self.question(blank, condition(within, "4"), most="4")
        answer = question.answers[0]
        self.assertEqual(
            (question.kind, question.points, answer.lower, answer.upper),
            ("numerical", 4.0, 1.5, 2.5),
        )

    def test_gaps_stand_in_the_text(self) -> None:
        blank = '<response_str ident="{0}"><render_fib/></response_str>'
        flow = f"<flow>{text('One ')}{blank.format('g1')}{text(' and ')}{blank.format('g2')}</flow>"
        rules = condition(equals("a", "g1"), "1", "Add", "Yes") + condition(
            equals("b", "g2"), "1", "Add", "Yes"
        )
        question = self.question(flow, rules, most="2")
        self.assertEqual(question.prompt.text, "One ⟦g1⟧ and ⟦g2⟧")
        self.assertEqual(
            [(a.gap, a.value, a.share) for a in question.answers],
            [("g1", "a", 0.5), ("g2", "b", 0.5)],
        )

    def test_texts_stand_wherever_the_standard_allows_them(self) -> None:
        blank = f'<response_str ident="r"><render_fib>{text("Ripe")}<response_label ident="A"/>{{0}}</render_fib></response_str>'
        named = '<response_str ident="{0}">{1}<render_fib/></response_str>'
        group = f'<flow_label>{text("Pears")}<response_label ident="a">Vicar</response_label></flow_label>'
        listed = f"<render_choice>{text('Take one.')}{group}<response_label ident='b'>\n<b/>\n3 &lt; 4\n</response_label></render_choice>"
        for presentation, prompt, labels in (
            (choices("a", "b", before=text("Which?")), "Which?", ["a", "b"]),
            (f'<response_lid ident="r">{listed}</response_lid>', "Take one. Pears", ["Vicar", "3 &lt; 4"]),
            (blank.format(text("in June.")), "Ripe ⟦r⟧ in June.", []),
            (blank.format(""), "Ripe", []),
            (named.format("r", text("Fruit:")) + named.format("s", text("Tree:")), "Fruit: ⟦r⟧ Tree: ⟦s⟧", []),
            (f'<response_xy ident="r"><render_hotspot>{text("Where?")}</render_hotspot></response_xy>', "Where?", []),
        ):  # fmt: skip
            rules = "".join(
                condition(equals("a", ident), "1", "Add", "Yes") for ident in ("r", "s")
            )
            question = self.question(presentation, rules, most="2")
            self.assertEqual(question.prompt.text, prompt)
            self.assertEqual([choice.body.text for choice in question.choices], labels)

    def test_files_in_the_item_itself_and_texts_in_files(self) -> None:
        material = (
            '<material><matimage imagtype="image/png" label="A pear" embedded="base64">\niVBO\nRw0K </matimage>'
            '<matimage embedded="base64"> </matimage><mattext uri="more/rules.html"/></material>'
        )
        question = self.question(material + choices("a", "b"), condition(equals("a"), "1"))
        self.assertEqual(
            question.prompt.text,
            '<img src="data:image/png;base64,iVBORw0K" alt="A pear"> <a href="more/rules.html">rules.html</a>',
        )

    def test_feedback_for_teachers_is_not_shown_to_students(self) -> None:
        shown = '<itemfeedback ident="f" view="{0}"><flow_mat>{1}</flow_mat></itemfeedback>'
        after = shown.format("Tutor", text("Look at the scion.")) + shown.format(
            "Candidate", text("Yes.")
        )
        rules = condition(equals("a"), "1").replace(
            "</respcondition>", '<displayfeedback linkrefid="f"/></respcondition>'
        )
        question = read(item_of(choices("a", "b"), rules, after=after))
        self.assertEqual([f.body.text for f in question.feedback], ["Yes."])
        self.assertEqual(question.rubric.text, "Look at the scion.")

    def test_a_field_with_several_blanks(self) -> None:
        field = (
            f'<response_str ident="F" rcardinality="Ordered"><render_fib fibtype="{{0}}">{text("Bud in")}<flow_label>'
            f'<response_label ident="A"/></flow_label>{text("and graft in")}<response_label ident="B"/></render_fib></response_str>'
        )
        by_place = [
            f'<varequal respident="F" index="{n}">{w}</varequal>'
            for n, w in ((1, "July"), (2, "March"))
        ]
        by_label = [equals("July", "A"), equals("March", "B")]
        for first, second in (by_place, by_label):
            rules = condition(first, "1", "Add", "Yes") + condition(second, "1", "Add", "Yes")
            question = self.question(field.format("String"), rules, most="2")
            self.assertEqual(question.prompt.text, "Bud in ⟦F-1⟧ and graft in ⟦F-2⟧")
            self.assertEqual(
                [(a.gap, a.value, a.share) for a in question.answers],
                [("F-1", "July", 0.5), ("F-2", "March", 0.5)],
            )
            together = self.question(field.format("String"), condition(first + second, "100"))
            self.assertEqual((together.is_partial, together.scoring), (False, ""))
            self.assertEqual([a.gap for a in together.answers], ["F-1", "F-2"])
        numbers = "".join(
            condition(f'<varequal respident="F" index="{n}">{n}</varequal>', "1", "Add", "Yes")
            for n in (1, 2)
        )
        question = self.question(field.format("Integer"), numbers, most="2")
        self.assertEqual([part.kind for part in question.parts], ["numerical", "numerical"])
        any_blank = condition(equals("July", "F"), "1", "Add", "Yes")
        question = self.question(field.format("String"), any_blank, most="1")
        self.assertEqual(question.prompt.text, "Bud in ⟦F⟧ and graft in _____")

    def test_how_many_choices_a_student_must_take_is_named(self) -> None:
        for least, named in (("2", True), ("1", False)):
            lists = choices("a", "b", "c", cardinality="Multiple").replace(
                "<render_choice>", f'<render_choice minnumber="{least}">'
            )
            problems = read_item(parsed(item_of(lists, condition(equals("a"), "1"))), PLACE)[1]
            said = [problem.message for problem in problems]
            self.assertEqual(any("minnumber" in message for message in said), named, said)

    def test_a_range_asks_for_a_number_whatever_the_field_says(self) -> None:
        blank = '<response_str ident="r"><render_fib/></response_str>'
        within = '<vargte respident="r">9</vargte><varlte respident="r">10</varlte>'
        question = self.question(blank, condition(within, "100"))
        self.assertEqual(question.kind, "numerical")
        self.assertEqual([(a.lower, a.upper) for a in question.answers], [(9.0, 10.0)])

    def test_what_cannot_be_right_is_said(self) -> None:
        for presentation, conditions, words in (
            (
                choices("a", "b"),
                condition(f"<or>{equals('a')}{equals('b')}</or>", "100"),
                "2 choices are right",
            ),
            (choices("a", "b"), "", "No answer"),
            (choices("a", "a"), condition(equals("a"), "100"), "same identifier"),
        ):
            problems = read_item(parsed(item_of(presentation, conditions)), PLACE)[1]
            said = [problem.message for problem in problems]
            self.assertTrue(any(words in message for message in said), said)

    def test_rules_that_are_not_understood_are_kept(self) -> None:
        for odd, words in (
            (condition('<durlt respident="r">30</durlt>', "100"), "durlt"),
            (condition(f"<and>{equals('b')}<durlt>30</durlt></and>", "100"), "durlt"),
            (condition(equals("b"), "many"), "many"),
            ('<respcondition><setvar varname="SCORE">100</setvar></respcondition>', "setvar"),
        ):
            question = self.question(choices("a", "b"), odd)
            self.assertIn(words, question.scoring)
            self.assertEqual(question.answers, ())

    def test_plain_text_with_markup_and_without(self) -> None:
        for words, kind, wanted in (
            ("a < b & c", "text/plain", "a &lt; b &amp; c"),
            ("<p>a</p>", "text/plain", "<p>a</p>"),
            ("a < b", "text/html", "a < b"),
        ):
            question = self.question(
                text(words, kind) + choices("a"), condition(equals("a"), "100")
            )
            self.assertEqual(question.prompt.text, wanted)
