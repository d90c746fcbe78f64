"""Composite questions on hosts that have none: parts where nothing is lost, else an essay that shows it all."""

import unittest

from hypothesis import given, settings
from msgspec.structs import replace

from newburrow.convert.quiz import sheet
from newburrow.convert.quiz.fitting import fitted
from newburrow.model import Answer, Body, Choice, Feedback, Question
from tests.formats.generated_questions import composites

TAKEN = ("choice", "multiple-choice", "text-entry", "essay")


def choice(key: str, *names: str, **more: object) -> Question:
    made = Question(
        key=key,
        choices=tuple(Choice(name, Body(name.upper())) for name in names),
        answers=(Answer(names[0]),),
    )
    return replace(made, **more)


def composite(*parts: Question, **more: object) -> Question:
    text = " ".join(f"⟦{part.key}⟧" for part in parts)
    made = Question(
        key="q", kind="composite", prompt=Body(f"Do {text}"), parts=parts, points=3.0
    )
    return replace(made, **more)


class Composites(unittest.TestCase):
    def test_parts_become_questions_with_their_points(self) -> None:
        asked = composite(
            choice("p", "a", "b", points=1.0, prompt=Body("Which?")),
            Question(key="t", kind="text-entry", answers=(Answer("bud"),), points=2.0),
            is_partial=True,
            feedback=(Feedback(Body("Well done."), "right"), Feedback(Body("No."), "a")),
        )
        first, second = fitted(asked, TAKEN)
        self.assertEqual((first.key, first.kind, first.points), ("q/p", "choice", 1.0))
        self.assertEqual((second.key, second.kind, second.points), ("q/t", "text-entry", 2.0))
        self.assertEqual(first.prompt.text, "Do <strong>_____</strong> _____\nWhich?")
        self.assertEqual([f.on for f in first.feedback], ["right", "a"])
        self.assertEqual([f.on for f in second.feedback], ["right"])

    def test_what_is_not_read_of_a_part_stays_with_teachers(self) -> None:
        spots = Question(key="h", kind="essay", points=1.0, scoring="<hotspot/>")
        asked = composite(choice("p", "a", "b", points=2.0), spots, is_partial=True)
        for taken in (TAKEN, (*TAKEN, "composite"), ("essay",)):
            shown = [made.rubric.text for made in fitted(asked, taken)]
            self.assertEqual(sum("&lt;hotspot/&gt;" in text for text in shown), 1, taken)

    def test_parts_that_count_only_together_become_an_essay(self) -> None:
        asked = composite(
            choice("p", "a", "b"),
            choice("q", "c", "d"),
            feedback=(Feedback(Body("So."), "right"),),
        )
        (essay,) = fitted(asked, TAKEN)
        self.assertEqual((essay.kind, essay.parts, essay.points), ("essay", (), 3.0))
        for words in ("<li>A</li>", "<li>D</li>"):
            self.assertIn(words, essay.prompt.text)
        for words in ("composite", "part 1: A", "part 2: C", "on right: So."):
            self.assertIn(words, essay.rubric.text)

    def test_a_part_that_the_host_lacks_keeps_them_together(self) -> None:
        order = Question(
            key="o",
            kind="order",
            choices=(Choice("a"), Choice("b")),
            answers=(Answer("a"),),
            points=2.0,
        )
        asked = composite(choice("p", "a", "b", points=1.0), order, is_partial=True)
        self.assertEqual([made.kind for made in fitted(asked, TAKEN)], ["essay"])

    def test_rules_are_shown_to_teachers(self) -> None:
        asked = choice("p", "a", "b", scoring="<rule>7</rule>", rubric=Body("Look."))
        (made,) = fitted(asked, TAKEN)
        self.assertEqual(made.kind, "choice")
        self.assertIn("Look.", made.rubric.text)
        self.assertIn("&lt;rule&gt;7&lt;/rule&gt;", made.rubric.text)

    @settings(max_examples=100, deadline=None)
    @given(composites())
    def test_points_and_words_of_all_parts_stay(self, question: Question) -> None:
        made = fitted(question, TAKEN)
        self.assertAlmostEqual(sum(part.points or 0 for part in made), question.points or 0)
        shown = " ".join(sheet.words(Body(sheet.question(part))) for part in made)
        for part in question.parts:
            for choice_ in part.choices:
                self.assertIn(sheet.words(choice_.body), shown)


class Pages(unittest.TestCase):
    def test_addresses_in_words_stay(self) -> None:
        text = '<p><img src="a.png" data-src="b.png"> &lt;a href="c.html"&gt;</p><pre>src="d.png"</pre>'
        shown = sheet.plain(Body(text, base="https://old.example/x/"))
        self.assertIn('src="https://old.example/x/a.png" data-src="b.png"', shown)
        self.assertIn('&lt;a href="c.html"&gt;', shown)
        self.assertIn('<pre>src="d.png"</pre>', shown)

    def test_what_teachers_see_stands_with_the_answers(self) -> None:
        asked = choice(
            "p",
            "a",
            "b",
            points=1.0,
            feedback=(Feedback(Body("Fine."), "right"),),
            rubric=Body("Look."),
        )
        made = sheet.page([asked], has_answers=True)
        self.assertIn("<em>(1 point)</em>", made)
        self.assertLess(made.index("<h2>Answers</h2>"), made.index("on right: Fine."))
        self.assertIn("Look.", made)
        self.assertNotIn("Look.", sheet.page([asked], has_answers=False))
