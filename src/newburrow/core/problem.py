"""What went wrong or needs a hand, as data, and the one exception that stops a run.

A severity says what happens if nobody looks:

- `info`     nothing is lost; good to know
- `warning`  something looks or reads other than before
- `error`    readers miss something, or a link is dead
- `fatal`    the run cannot go on
"""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable
from enum import StrEnum

from msgspec import Struct

from newburrow.model.record import Where


class Severity(StrEnum):
    """How bad it is, from the mildest to the worst."""

    INFO = "info"
    WARNING = "warning"
    ERROR = "error"
    FATAL = "fatal"


NOWHERE = Where()


class Problem(Struct, frozen=True):
    """One thing to say to the administrator."""

    severity: Severity
    code: str  # a short name for its kind, the same in every run: `form`, `dead-link`, ...
    message: str  # what is the matter
    advice: str = ""  # what to do next
    where: Where = NOWHERE
    object: str = ""  # the table of the record it is about: `entry`, `media`, ...
    key: str = ""  # the key of that record
    excerpt: str = ""  # the line in question, with a marker under the place

    def text(self) -> str:
        """The whole as plain lines: what, where, the excerpt, what to do."""
        lines = [self.message]
        if self.where.file:
            lines.append(f"  in {self.where}")
        lines += [f"    {line}" for line in self.excerpt.splitlines()]
        if self.advice:
            lines.append(f"  {self.advice}")
        return "\n".join(lines)


Say = Callable[[Severity, str, str, str], None]  # takes severity, code, message, advice


class BurrowError(Exception):
    """The run cannot go on. Carries the problem that says why and what to do."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(problem.text())
        self.problem = problem

    def __reduce__(self) -> tuple[type[BurrowError], tuple[Problem]]:
        """Errors come back from other processes with the problem that they carry."""
        return type(self), (self.problem,)


def refusal(
    code: str, message: str, advice: str = "", where: Where = NOWHERE, excerpt: str = ""
) -> BurrowError:
    """The exception for a fatal problem, to be raised by the caller."""
    return BurrowError(Problem(Severity.FATAL, code, message, advice, where, excerpt=excerpt))


def nearest(word: str, known: Iterable[str], most: int = 3) -> list[str]:
    """The known words that look most like this one, the best first; none where nothing is near."""
    return difflib.get_close_matches(word, list(known), n=most, cutoff=0.5)


def suggest(word: str, known: Iterable[str], listing: str) -> str:
    """A sentence that names the nearest known words, else all of them as `listing` introduces them."""
    known = sorted(known)
    near = nearest(word, known)
    if near:
        return "Did you mean " + " or ".join(repr(name) for name in near) + "?"
    return f"{listing}: {', '.join(known)}."
