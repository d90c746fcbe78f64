"""One line of a file for a message, with a marker under the place in question."""

from __future__ import annotations

import msgspec

from newburrow.core.problem import Problem
from newburrow.intake.part import Part

_WIDTH = 76  # characters shown of a long line
_LONGEST = 1 << 20  # bytes looked at in one line


def excerpt(part: Part, line: int, column: int) -> str:
    """One line of a part, with `^` under a column; for a message about that place.

    Line and column are counted from 1. The line is cut to a readable width around the column. Empty if the
    part has no such line.
    """
    at = max(column - 1, 0)
    number, passed = 1, 0
    with part.open() as stream:
        while found := stream.readline(_LONGEST):
            if number == line and (at < passed + len(found) or found.endswith(b"\n")):
                break
            if number == line:
                passed = passed + len(found)
            else:
                passed = 0
            number += found.endswith(b"\n")
    if not found:
        return ""
    at -= passed
    text = found.decode("utf-8", "replace").rstrip("\r\n")
    first = max(0, at - _WIDTH // 2)
    shown = "".join(
        c if c.isprintable() else "\N{REPLACEMENT CHARACTER}"
        for c in text[first : first + _WIDTH]
    )
    if first:
        lead = "…"
    else:
        lead = ""
    if first + _WIDTH < len(text):
        tail = "…"
    else:
        tail = ""
    return f"{lead}{shown}{tail}\n{' ' * (at - first + len(lead))}^"


def with_excerpt(problem: Problem, part: Part) -> Problem:
    """The problem with the line in question, where it is about one."""
    if not problem.where.line or problem.excerpt:
        return problem
    return msgspec.structs.replace(
        problem, excerpt=excerpt(part, problem.where.line, problem.where.column)
    )
