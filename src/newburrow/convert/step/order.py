"""The steps that turn an entry of the old site into one of the new, in their order."""

from __future__ import annotations

from collections.abc import Callable

from newburrow.convert.context import Context
from newburrow.convert.step import (
    authors,
    bodies,
    comments,
    dates,
    fields,
    ids,
    kinds,
    limits,
    media,
    questions,
    states,
    terms,
)
from newburrow.core.problem import Problem
from newburrow.model.bundle import Bundle

Step = Callable[[Bundle, Context], tuple[Bundle, list[Problem]]]

STEPS: tuple[tuple[str, Step], ...] = (
    ("make it one of the host's kinds", kinds.step),
    ("put it in a state the host knows", states.step),
    ("tell its dates as the host does", dates.step),
    ("give it the host's fields", fields.step),
    ("name its authors", authors.step),
    ("file it under the host's terms", terms.step),
    ("choose and order its comments", comments.step),
    ("find its lead picture", media.step),
    ("make its questions ones that the host has", questions.step),
    ("convert its bodies", bodies.step),
    ("keep it within the host's limits", limits.step),
    ("give it its id", ids.step),
)
