"""Items of QTI 1.2 with several responses that ask different things (ASI information model, section 3.4.1).

Each response becomes a part of a composite question. What is right in it is found by trying, as in any item.
"""

from __future__ import annotations

from collections.abc import Sequence

from lxml import etree
from msgspec.structs import replace

from newburrow.formats.qti1 import answers
from newburrow.formats.qti1.answers import Finder, PartsGiven
from newburrow.formats.qti1.material import choice_of
from newburrow.formats.qti1.scoring import Response, Scoring
from newburrow.formats.xml_names import attribute, descendants, local
from newburrow.model import Question

_NEAR = 0.02  # of shares that add up to the whole
_SEVERAL = ("multiple-choice", "order", "match")  # kinds of which one answer has several values
_NOT_WHOLE_TEXTS = ("varsubstring", "varlt", "varlte", "vargt", "vargte")
_ASKING_TEXTS = ("text-entry", "pattern-match")
_OF_NUMBERS = ("integer", "decimal")
_TEXTS = ("varequal", "varsubstring", "varsubset")


def is_composite(responses: Sequence[etree._Element], scoring: Scoring) -> bool:
    """Whether responses ask different things: not all are gaps in a text, nor rows of a match."""
    if len(responses) < 2:
        return False
    names = {local(response) for response in responses}
    if names == {"response_str"}:
        if _asks_more_than_texts(responses, scoring):
            return True
        tested = {test.ident for test, _negations in scoring.tests}
        scored = [attribute(response, "ident") in tested for response in responses]
        return any(scored) and not all(scored)
    if names == {"response_lid"}:
        first, *others = map(_labels, responses)
        return any(other != first for other in others)
    return True


def _asks_more_than_texts(responses: Sequence[etree._Element], scoring: Scoring) -> bool:
    """Whether any of several fields asks for a number, or for a text of which a part is enough."""
    if any(test.name in _NOT_WHOLE_TEXTS for test, _negations in scoring.tests):
        return True
    fields = (field for response in responses for field in descendants(response, "render_fib"))
    return any(attribute(field, "fibtype").lower() in _OF_NUMBERS for field in fields)


def _labels(response: etree._Element) -> dict[str, str]:
    """What can be chosen in a response: identifier -> text."""
    return {
        attribute(label, "ident"): choice_of(label)
        for label in descendants(response, "response_label")
    }


def has_only_texts(asked: Question) -> bool:
    """Whether a composite asks for texts alone, and none is known to be right."""
    if not asked.parts:
        return False
    return all(part.kind in _ASKING_TEXTS and not part.answers for part in asked.parts)


def settled(asked: Question, scoring: Scoring) -> Question:
    """A composite whose parts have no answers yet, with those that score.

    Where the parts score one by one, each gets its points; `points` of the whole is known by then. Where only all
    of them together score, they have none of their own. Else the response processing is kept.
    """
    if not scoring.elements:
        return asked
    tried = sum(len(part.choices) + 1 for part in asked.parts) * len(scoring.tests)
    if tried > answers.MOST_TESTS:
        return replace(asked, scoring=answers.written(scoring))
    rights = {part.key: _right(part, scoring) for part in asked.parts}
    parts = _each_for_itself(asked, scoring, rights) or _all_together(asked, scoring, rights)
    is_answered = any(part.answers for part in parts)
    if not scoring.is_understood or not is_answered:
        return replace(asked, scoring=answers.written(scoring))
    is_partial = any(part.points is not None for part in parts)
    if not is_partial:
        parts = tuple(map(_with_right, parts))
    return replace(asked, parts=parts, is_partial=is_partial)


def _with_right(part: Question) -> Question:
    """A part of what scores only all together: an answer is right there, or counts for nothing."""
    if part.is_partial:
        return part
    right = (answer for answer in part.answers if answer.share > 1 - _NEAR)
    return replace(part, answers=tuple(replace(answer, share=1.0) for answer in right))


def _right(part: Question, scoring: Scoring) -> tuple[str, ...]:
    """Values that are likely to be the right answer to a part."""
    if part.kind == "numerical":
        found = Finder([part.key], (), scoring, PartsGiven({}, 1.0)).tried_numbers()
        if found:
            return (repr(found[0]),)
        return ()
    values = tuple(
        dict.fromkeys(
            test.value
            for condition in scoring.conditions
            if any(value > 0 for value in condition.values)
            for test, negations in condition.all_tests()
            if test.name in _TEXTS and test.ident == part.key and negations % 2 == 0
        )
    )
    if part.kind in _SEVERAL:
        return values
    return values[:1]


def _each_for_itself(
    asked: Question, scoring: Scoring, rights: dict[str, tuple[str, ...]]
) -> tuple[Question, ...]:
    """The parts with their points; nothing where these do not add up to those of the whole."""
    most = scoring.most or 1.0
    nothing = scoring.score_of({})
    gains = {
        name: max(
            (scoring.score_of({name: value}) - nothing for value in _forms(values)),
            default=0.0,
        )
        for name, values in rights.items()
    }
    whole = sum(gains.values())
    if abs(whole / most - 1) > _NEAR:
        return ()
    points = asked.points if asked.points is not None else most
    return tuple(
        replace(
            _answered(part, scoring, PartsGiven({}, gains[part.key])),
            points=round(points * gains[part.key] / whole, 9),
        )
        for part in asked.parts
    )


def _forms(values: tuple[str, ...]) -> list[tuple[str, ...]]:
    """All values as one answer, and each by itself."""
    return [values, *((value,) for value in values)]


def _all_together(
    asked: Question, scoring: Scoring, rights: dict[str, tuple[str, ...]]
) -> tuple[Question, ...]:
    """The parts of an item that scores only where all of them are right; nothing where it does not."""
    all_right: Response = {name: values for name, values in rights.items() if values}
    most = scoring.most or 1.0
    if scoring.score_of(all_right) / most < 1 - _NEAR:
        return ()
    parts = []
    for part in asked.parts:
        others = {name: values for name, values in all_right.items() if name != part.key}
        parts.append(_answered(part, scoring, PartsGiven(others, most)))
    return tuple(parts)


def _answered(part: Question, scoring: Scoring, others: PartsGiven) -> Question:
    """A part with what is right in it, while the others stay as they are."""
    if part.kind in answers.UNSCORED or not others.most:
        return part
    found = Finder([part.key], part.choices, scoring, others).of(part.kind)
    return replace(part, answers=found.answers, is_partial=found.is_partial)
