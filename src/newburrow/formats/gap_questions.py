"""Questions with gaps in their text: where one has to be seen, and composites whose parts are all such gaps."""

from __future__ import annotations

import re

from msgspec.structs import replace

from newburrow.model import Answer, Choice, Question
from newburrow.model.course import GAP_ENDS

_TAG = re.compile(r"<[^>]*>")
_PICTURE = re.compile(r"<(?:img|audio|video|object)\b")


def ends_in_only_gap(html: str) -> bool:
    """Whether a text has one gap, with nothing to see after it: then the answer is given below the text."""
    after = html.rpartition(GAP_ENDS)[2]
    is_last = not _PICTURE.search(after) and not _TAG.sub("", after).strip()
    return html.count(GAP_ENDS) == 1 and is_last


def as_gaps(composite: Question) -> Question:
    """A composite of words, or of lists, as one question; each part is a gap."""
    choices, answers = list[Choice](), list[Answer]()
    for part in composite.parts:
        weight = 1.0
        if composite.is_partial and composite.points:
            weight = (part.points or 0.0) / composite.points
        choices += [replace(choice, group=part.key) for choice in part.choices]
        answers += [
            replace(answer, gap=part.key, share=round(answer.share * weight, 9))
            for answer in part.answers
        ]
    return replace(
        composite,
        kind="inline-choice" if choices else "text-entry",
        choices=tuple(choices),
        answers=tuple(answers),
        shuffle=any(part.shuffle for part in composite.parts),
        parts=(),
    )
