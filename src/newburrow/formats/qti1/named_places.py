"""Responses of QTI 1.2 that stand behind a text, in which brackets say where each is asked for.

“An [fruit] grows on a [plant].”, then two lists that are called “fruit” and “plant”.
"""

from __future__ import annotations

import html
import re

from msgspec.structs import replace

from newburrow.formats.gap_questions import as_gaps
from newburrow.model import Answer, Body, Question
from newburrow.model.course import GAP_BEGINS, GAP_ENDS

_TAG = re.compile(r"<[^>]*>")
_FILE = re.compile(r"<(?:img|audio|video)\b")
_NEAR = 1e-6  # of shares that are the same
_LISTS = ("choice", "true-false")


def placed(composite: Question) -> Question:
    """The same, with each part at the place that the text names; unchanged where any has none, or more than one."""
    text = composite.prompt.text
    for part in composite.parts:
        gap = f"{GAP_BEGINS}{part.key}{GAP_ENDS}"
        mark = f"[{_words(part.prompt) or html.escape(part.key, quote=False)}]"
        is_named = text.count(mark) == 1 == _TAG.sub("", text).count(mark)
        if not is_named or part.kind not in (*_LISTS, "text-entry"):
            return composite
        text = text.replace(gap, "").replace(mark, gap)
    made = replace(
        composite,
        prompt=replace(composite.prompt, text=text.rstrip()),
        parts=tuple(map(_within_line, composite.parts)),
    )
    kinds = {part.kind for part in made.parts}
    names = [choice.name for part in made.parts for choice in part.choices]
    are_gaps = kinds in ({"text-entry"}, {"inline-choice"})
    if are_gaps and len(set(names)) == len(names):
        return as_gaps(made)
    return made


def _within_line(part: Question) -> Question:
    """A part as it stands in a line: a list of words, or a field where every choice of a list is right."""
    if part.kind not in _LISTS:
        return replace(part, prompt=Body())
    right = {answer.value: answer for answer in part.answers if answer.share > 1 - _NEAR}
    if len(right) < len(part.choices):
        return replace(part, kind=_kind_within_line(part), prompt=Body())
    texts = (html.unescape(_words(choice.body)) for choice in part.choices)
    return replace(
        part,
        kind="text-entry",
        prompt=Body(),
        choices=(),
        answers=tuple(Answer(text) for text in dict.fromkeys(texts)),
    )


def _kind_within_line(part: Question) -> str:
    """A list stands within a line if its choices are words alone."""
    if any(_FILE.search(choice.body.text) for choice in part.choices):
        return part.kind
    return "inline-choice"


def _words(body: Body) -> str:
    return " ".join(_TAG.sub(" ", body.text).split())
