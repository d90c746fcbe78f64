"""The facts of an entry that a template of a host should show, and those that it leaves out."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from msgspec.structs import replace

from newburrow.core.problem import NOWHERE, Problem

OF_ENTRY = (
    "title",
    "published",
    "updated",
    "authors",
    "summary",
    "body",
    "terms",
    "lead_picture",
    "enclosures",
    "parent",
    "position",
    "language",
    "fields",
    "comments",
)


def unsaid(
    facts: Mapping[str, Any],
    matters: Collection[str],
    used: Collection[str],
    about: tuple[str, str],
) -> list[Problem]:
    """The problem that a record has facts which no template says; none where all are said.

    `facts` are those of the record, `matters` the names of those that should be said, `used` the names in its
    template, `about` the table and the key of the record.
    """
    left = [name for name in matters if facts.get(name) and name not in used]
    if not left:
        return []
    message = f"The host's templates have no place for: {', '.join(left).replace('_', ' ')}."
    advice = "Set it by hand on the new host, or add it to the template."
    problem = Problem.at(NOWHERE, "dropped", message=message, advice=advice)
    return [replace(problem, object=about[0], key=about[1])]
