"""Questions as items of QTI 1.2 in the profile of Common Cartridge (Common Cartridge 1.3, section 4.6)."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from newburrow.formats.xml_output import attribute, text
from newburrow.model import Answer, Body, Feedback, Question
from newburrow.model.course import BLANK, GAP

KINDS = ("choice", "multiple-choice", "true-false", "text-entry", "pattern-match", "essay")
_PROFILES = {
    "choice": "cc.multiple_choice.v0p1",
    "multiple-choice": "cc.multiple_response.v0p1",
    "true-false": "cc.true_false.v0p1",
    "text-entry": "cc.fib.v0p1",
    "pattern-match": "cc.pattern_match.v0p1",
    "essay": "cc.essay.v0p1",
}
_RESPONSE = "response1"
# A test that no answer meets: what is shown on right answers has a place even where no answer is right.
_NEVER = "<and>\n<not>\n<other/>\n</not>\n</and>\n"
Html = Callable[[Body], str]  # a body as the HTML that stands in the package


def item(question: Question, ident: str, html: Html) -> str:
    """The `item` of a question of one of KINDS."""
    writer = _LinesOfQti1(question, html)
    return "".join(writer.lines(ident))


class _LinesOfQti1:
    """One item being written."""

    def __init__(self, question: Question, html: Html) -> None:
        self.question, self.html = question, html
        self.shown = [
            (f"feedback{number}", feedback)
            for number, feedback in enumerate(question.feedback, 1)
        ]

    def lines(self, ident: str) -> Iterator[str]:
        """The item, line by line."""
        question = self.question
        if question.title:
            title = f" title={attribute(question.title)}"
        else:
            title = ""
        yield f'<item ident="{ident}"{title}>\n<itemmetadata>\n<qtimetadata>\n'
        yield field("cc_profile", _PROFILES[question.kind])
        # Without a weight an item counts 1; one whose answers nothing scores must not.
        points = question.points
        if points is None and question.answers:
            points = 0.0
        if points is not None:
            yield field("cc_weighting", f"{points:.12g}")
        if question.kind == "essay":
            yield field("qmd_computerscored", "No")
        yield "</qtimetadata>\n</itemmetadata>\n<presentation>\n"
        yield material(GAP.sub(BLANK, self.html(question.prompt)))
        yield from self._response()
        yield "</presentation>\n"
        yield from self._processing()
        for name, feedback in self.shown:
            yield from self._feedback(name, feedback)
        if question.rubric.text:
            yield from self._feedback("rubric", Feedback(question.rubric, "solution"))
        yield "</item>\n"

    def _response(self) -> Iterator[str]:
        kind = self.question.kind
        if kind in ("text-entry", "pattern-match", "essay"):
            rows = ' rows="5"' if kind == "essay" else ""
            blank = f'<render_fib{rows} prompt="Dashline"/>'
            yield f'<response_str ident="{_RESPONSE}" rcardinality="Single">\n{blank}\n</response_str>\n'
            return
        cardinality = "Multiple" if kind == "multiple-choice" else "Single"
        shuffle = ' shuffle="Yes"' if self.question.shuffle else ""
        yield f'<response_lid ident="{_RESPONSE}" rcardinality="{cardinality}">\n<render_choice{shuffle}>\n'
        for choice in self.question.choices:
            if choice.fixed and self.question.shuffle:
                fixed = ' rshuffle="No"'
            else:
                fixed = ""
            words = material(self.html(choice.body))
            yield f"<response_label ident={attribute(choice.name)}{fixed}>\n{words}</response_label>\n"
        yield "</render_choice>\n</response_lid>\n"

    def _processing(self) -> Iterator[str]:
        question = self.question
        if not question.answers and not any(not f.is_hint for f in question.feedback):
            return
        yield (
            '<resprocessing>\n<outcomes>\n<decvar maxvalue="100" minvalue="0" varname="SCORE" vartype="Decimal"/>\n'
            "</outcomes>\n"
        )
        general = self._shows("any")
        if (
            question.kind == "essay"
        ):  # the solution that is shown to nobody is what the teacher grades by
            general += self._shows("solution")
        if general:
            yield condition("<other/>\n", None, general, True)
        for answer in self._values():
            yield condition(equal(answer), None, self._shows(answer), True)
        yield from self._scores()
        if wrong := self._shows("wrong"):
            yield condition("<other/>\n", None, wrong, False)
        yield "</resprocessing>\n"

    def _values(self) -> list[str]:
        """The answers that a feedback is shown on."""
        general = ("any", "right", "wrong", "solution")
        return list(
            dict.fromkeys(
                f.on for f in self.question.feedback if f.on not in general and not f.is_hint
            )
        )

    def _shows(self, on: str) -> list[str]:
        return [
            name for name, feedback in self.shown if feedback.on == on and not feedback.is_hint
        ]

    def _scores(self) -> Iterator[str]:
        question = self.question
        right = self._shows("right")
        if right and not any(
            answer.share >= 1 or question.is_partial for answer in question.answers
        ):
            yield condition(_NEVER, None, right, True)
        if not question.answers:
            return
        if question.kind == "multiple-choice" and not question.is_partial:
            yield condition(self._all_right(), 100, right, False)
        elif question.kind == "multiple-choice":
            for answer in question.answers:
                yield condition(equal(answer.value), answer.share * 100, [], True, "Add")
            if right:
                yield condition(self._all_right(), None, right, False)
        else:
            for answer in question.answers:
                shown = right if answer.share >= 1 else []
                yield condition(test(answer), answer.share * 100, shown, False)

    def _all_right(self) -> str:
        right = {answer.value for answer in self.question.answers}
        tests = [
            equal(choice.name)
            if choice.name in right
            else f"<not>\n{equal(choice.name)}</not>\n"
            for choice in self.question.choices
        ]
        return f"<and>\n{''.join(tests)}</and>\n"

    def _feedback(self, name: str, feedback: Feedback) -> Iterator[str]:
        words = material(self.html(feedback.body))
        yield f'<itemfeedback ident="{name}">\n'
        if feedback.is_hint:
            yield f"<hint>\n<hintmaterial>\n{words}</hintmaterial>\n</hint>\n"
        elif feedback.on == "solution":
            yield f"<solution>\n<solutionmaterial>\n{words}</solutionmaterial>\n</solution>\n"
        else:
            yield f"<flow_mat>\n{words}</flow_mat>\n"
        yield "</itemfeedback>\n"


def field(label: str, value: str) -> str:
    """One field of metadata."""
    return (
        f"<qtimetadatafield>\n<fieldlabel>{label}</fieldlabel>\n<fieldentry>{text(value)}</fieldentry>\n"
        "</qtimetadatafield>\n"
    )


def material(html: str) -> str:
    """A text; HTML is character data in it."""
    return f'<material>\n<mattext texttype="text/html">{text(html)}</mattext>\n</material>\n'


def equal(value: str, case: bool = False) -> str:
    """The test whether an answer is given."""
    marked = ' case="Yes"' if case else ""
    return f'<varequal respident="{_RESPONSE}"{marked}>{text(value)}</varequal>\n'


def test(answer: Answer) -> str:
    """The test whether an answer is given, as it is meant."""
    if not answer.is_pattern:
        return equal(answer.value, answer.case_sensitive)
    marked = ' case="Yes"' if answer.case_sensitive else ""
    return (
        f'<varsubstring respident="{_RESPONSE}"{marked}>{text(answer.value)}</varsubstring>\n'
    )


def condition(
    tests: str, score: float | None, shown: list[str], goes_on: bool, action: str = "Set"
) -> str:
    """One condition: what it asks, the score in percent that it gives, and the feedback that it shows."""
    changed = ""
    if score is not None:
        changed = f'<setvar varname="SCORE" action="{action}">{score:.12g}</setvar>\n'
    feedback = "".join(
        f'<displayfeedback feedbacktype="Response" linkrefid="{name}"/>\n' for name in shown
    )
    more = "Yes" if goes_on else "No"
    asked = f"<conditionvar>\n{tests}</conditionvar>"
    return f'<respcondition continue="{more}">\n{asked}\n{changed}{feedback}</respcondition>\n'
