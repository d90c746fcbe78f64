"""The nearest kinds of question that a host has. A question becomes another kind only where nothing of it is lost.

Where something would be, it becomes an essay that shows the original to the teacher.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from msgspec.structs import replace

from newburrow.convert.quiz import sheet
from newburrow.model import Answer, Body, Choice, Feedback, Question
from newburrow.model.course import BLANK, GAP


def fitted(question: Question, taken: tuple[str, ...]) -> list[Question]:
    """The question as questions of kinds that a host takes; one of another kind says in `kind` what it became.

    Several come of one where each part stands for itself: the pairs of a match, the gaps of a text, the parts of a
    composite. Their points add up to those of the question. Empty where the host has no kind for it, not even the
    essay.
    """
    if question.kind in taken and not sheet.rules(question):
        return [question]
    if question.parts and (parts := _as_questions(question, taken)):
        return parts
    for kind, change in _CHANGES.get(question.kind, ()) if not question.scoring else ():
        if kind in taken and (made := change(question)):
            return made
    if question.kind in taken:
        return [_with_rules(question)]
    if "essay" in taken:
        return [as_essay(question)]
    return []


def _with_rules(question: Question) -> Question:
    """The question with the rules that score it, which the host has to be given again, in the text for teachers."""
    rubric = "\n".join(filter(None, (question.rubric.text, sheet.rules(question))))
    return replace(question, rubric=replace(question.rubric, text=rubric))


def as_essay(question: Question) -> Question:
    """An essay that shows the teacher what was asked, with the right answers."""
    if question.kind == "text-only":
        return replace(question, kind="essay")
    shown = sheet.for_teachers(question)
    rubric = "\n".join(filter(None, (question.rubric.text, shown)))
    prompt = sheet.question(question)
    return replace(
        question,
        kind="essay",
        prompt=Body(prompt),
        choices=(),
        answers=(),
        shuffle=False,
        is_partial=False,
        most=0,
        parts=(),
        rubric=Body(rubric),
        feedback=tuple(f for f in question.feedback if f.on == "any" or f.is_hint),
    )


def _as_choice(question: Question) -> list[Question]:
    return [replace(question, kind="choice")]


def _as_choices(question: Question) -> list[Question]:
    """Each pair of a match as a choice among all targets, worth its share."""
    sources = [choice for choice in question.choices if choice.group == "source"]
    targets = tuple(
        replace(c, group="", most=1) for c in question.choices if c.group == "target"
    )
    by_source: dict[str, list[Answer]] = {}
    for answer in question.answers:
        by_source.setdefault(answer.value, []).append(answer)
    if not _is_each_for_itself(question) or any(
        len(by_source.get(s.name, ())) != 1 for s in sources
    ):
        return []
    if sum(choice.most == 1 for choice in question.choices if choice.group == "target"):
        return []  # a target that is used once tells something of the others
    lead = sheet.plain(question.prompt)
    return [
        _part(question, source.name, f"{lead}\n{_paragraph(sheet.plain(source.body))}", targets,
              (Answer(by_source[source.name][0].partner),), by_source[source.name][0].share)
        for source in sources
    ]  # fmt: skip


def _as_inline_choices(question: Question) -> list[Question]:
    """Each list within a text as a choice, worth its share."""
    gaps = list(dict.fromkeys(choice.group for choice in question.choices))
    parts = []
    for gap in gaps:
        right = [answer for answer in question.answers if answer.gap in (gap, "")]
        if len(right) != 1 or (len(gaps) > 1 and not _is_each_for_itself(question)):
            return []
        chosen = tuple(replace(c, group="") for c in question.choices if c.group == gap)
        share = right[0].share if len(gaps) > 1 else 1.0
        parts.append(
            _part(
                question,
                gap,
                _with_gap(question, gap),
                chosen,
                (Answer(right[0].value),),
                share,
            )
        )
    return parts


def _as_texts(question: Question) -> list[Question]:
    """Each gap of a text as a question of its own, worth its share."""
    gaps = list(dict.fromkeys(answer.gap for answer in question.answers))
    if len(gaps) < 2 or not _is_each_for_itself(question):
        return []
    parts = []
    for gap in gaps:
        answers = [answer for answer in question.answers if answer.gap == gap]
        most = max(answer.share for answer in answers)
        whole = tuple(replace(a, gap="", share=round(a.share / most, 9)) for a in answers)
        parts.append(_part(question, gap, _with_gap(question, gap), (), whole, most))
    return parts


def _as_questions(question: Question, taken: tuple[str, ...]) -> list[Question]:
    """Each part of a composite as a question of its own; nothing where that would lose something of one."""
    if question.scoring or not question.is_partial:
        return []
    made = []
    for part in question.parts:
        lead = _with_gap(question, part.key)
        prompt = "\n".join(filter(None, (lead, sheet.plain(part.prompt))))
        asked = replace(
            question,
            key=f"{question.key}/{part.key}",
            kind=part.kind,
            prompt=Body(prompt, base=question.prompt.base),
            choices=part.choices,
            answers=part.answers,
            feedback=_of_part(question, part),
            points=part.points,
            scoring=part.scoring,
            shuffle=part.shuffle,
            is_partial=part.is_partial,
            most=part.most,
            parts=(),
        )
        became = fitted(asked, taken)
        if not became or (became[0].kind == "essay" and part.kind != "essay"):
            return []
        made += became
    return made


def _of_part(question: Question, part: Question) -> tuple[Feedback, ...]:
    """The feedback of a composite that is about any answer, or about a choice of this part."""
    names = {choice.name for choice in part.choices}
    general = _general(question)
    return tuple(f for f in question.feedback if f in general or f.on in names)


def _general(question: Question) -> tuple[Feedback, ...]:
    """The feedback that does not depend on which answer was given."""
    return tuple(
        feedback
        for feedback in question.feedback
        if feedback.on in ("any", "right", "wrong", "solution") or feedback.is_hint
    )


def _as_text(question: Question) -> list[Question]:
    """A whole number that is exact can be asked for as a text."""
    for answer in question.answers:
        if (
            answer.lower is None
            or answer.lower != answer.upper
            or not answer.value.lstrip("-").isdigit()
        ):
            return []
    answers = tuple(replace(answer, lower=None, upper=None) for answer in question.answers)
    return [replace(question, kind="text-entry", answers=answers)]


def _as_multiple(question: Question) -> list[Question]:
    return [replace(question, kind="multiple-choice")]


def _is_each_for_itself(question: Question) -> bool:
    return question.is_partial or len({answer.value for answer in question.answers}) == 1


def _part(
    question: Question,
    name: str,
    prompt: str,
    choices: tuple[Choice, ...],
    answers: tuple[Answer, ...],
    share: float,
) -> Question:
    if question.points is None:
        points = None
    else:
        points = round(question.points * share, 9)
    return replace(
        question,
        key=f"{question.key}/{name}",
        kind="choice" if choices else "text-entry",
        prompt=Body(prompt, base=question.prompt.base),
        choices=choices,
        answers=answers,
        feedback=_general(question),
        points=points,
        is_partial=False,
        most=0,
    )


def _with_gap(question: Question, gap: str) -> str:
    """The prompt with the one gap that is asked for; the others are blanks."""

    def shown(found: re.Match[str]) -> str:
        if found[1] == gap:
            return f"<strong>{BLANK}</strong>"
        return BLANK

    return GAP.sub(shown, sheet.plain(question.prompt))


def _paragraph(text: str) -> str:
    if text.lstrip().startswith("<p"):
        return text
    return f"<p>{text}</p>"


Change = Callable[[Question], list[Question]]
_CHANGES: dict[str, tuple[tuple[str, Change], ...]] = {
    "true-false": (("choice", _as_choice),),
    "match": (("choice", _as_choices),),
    "inline-choice": (("choice", _as_inline_choices),),
    "numerical": (("text-entry", _as_text),),
    "hot-text": (("multiple-choice", _as_multiple),),
}


def one_gap_each(question: Question, taken: tuple[str, ...]) -> list[Question]:
    """A text with several gaps for a host that has one in a question: parts, or an essay."""
    if parts := _as_texts(question):
        return parts
    if "essay" in taken:
        return [as_essay(question)]
    return []


def needs_parts(question: Question) -> bool:
    """Whether a text has several gaps, which not every host that asks for texts has."""
    return (
        question.kind == "text-entry" and len({answer.gap for answer in question.answers}) > 1
    )


def words_of(question: Question, most: int = 60) -> str:
    """The first words of a question, as people know it by."""
    words = sheet.words(question.prompt) or question.title
    return words[:most] + ("…" if len(words) > most else "")
