"""What readers of items of QTI have in common, whatever its version: where an item stands, and what cannot be right."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from newburrow.model import Question, Where

_UNMARKED = ("essay", "upload", "text-only", "composite")
_OF_CHOICES = ("choice", "true-false")


class ItemPlace(Struct, frozen=True):
    """Where an item stands."""

    entry: str  # key of its quiz or question bank
    section: str
    position: int
    base: str  # address that links in it start from
    where: Where
    is_survey: bool = False  # whether no answer is right or wrong
    weight: float | None = None  # that the test multiplies its score with


def doubts(question: Question, is_survey: bool) -> Iterator[str]:
    """What cannot be right in a question.

    Two right answers where one counts, none at all, two choices of one name, or an answer that is not a choice; of a
    composite, what cannot be right in its parts.
    """
    for part in question.parts:
        yield from doubts(part, is_survey or bool(question.scoring))
    names = [choice.name for choice in question.choices]
    if len(set(names)) < len(names) and question.kind != "inline-choice":
        yield "Two of its choices have the same identifier."
    full = [answer for answer in question.answers if answer.share >= 1]
    if question.kind in _OF_CHOICES and len(full) > 1:
        yield f"It takes one choice, and {len(full)} choices are right."
    marked = not is_survey and question.kind not in _UNMARKED
    if marked and not question.answers and not question.scoring:
        yield "No answer of it is right."
    for answer in question.answers if names else ():
        for name in filter(None, (answer.value, answer.partner)):
            if name not in names:
                yield f"The right answer {name!r} is none of its choices."
