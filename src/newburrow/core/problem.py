"""What went wrong or needs a hand, as data, and the one exception that ends a run.

The severity of a problem, its message and its advice come from the catalogue in `codes`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core.codes import Severity, catalogue
from newburrow.core.entry_codes import BODY_CODES, ENTRY_CODES
from newburrow.core.quiz_codes import QUIZ_CODES
from newburrow.core.refusal_codes import REFUSALS
from newburrow.model.record import Record, Where

NOWHERE = Where()
CODES = catalogue(ENTRY_CODES | QUIZ_CODES | BODY_CODES, REFUSALS)  # by code


class Problem(Struct, frozen=True):
    """One thing to say to the administrator."""

    severity: Severity
    code: str  # a short name for its kind, the same in every run: `form`, `dead-link`, ...
    message: str  # what is wrong
    advice: str = ""  # what to do next
    where: Where = NOWHERE
    object: str = ""  # the table of the record it is about: `entry`, `media`, ...
    key: str = ""  # the key of that record
    excerpt: str = ""  # the line in question, with a marker under the place; or what only this record has of it

    @classmethod
    def about(cls, record: Record, code: str, /, detail: str = "", **facts: Any) -> Problem:
        """A problem with one record. `facts` fill the templates of the code in the catalogue.

        `detail` is what only this record has of it: problems that say the same but for that are one to a person.
        """
        problem = cls.at(record.source, code, **facts)
        return replace(problem, object=record.table, key=record.key, excerpt=detail)

    @classmethod
    def at(cls, where: Where, code: str, /, **facts: Any) -> Problem:
        """A problem at a place in a file, or with no place at all (`NOWHERE`)."""
        template = CODES[code]
        advice = (template.advice or template.action).format(**facts)
        if advice == "Nothing.":
            advice = ""
        return cls(template.severity, code, template.message.format(**facts), advice, where)

    def text(self) -> str:
        """The whole as plain lines: what, where, the excerpt, what to do."""
        lines = [self.message]
        if self.where.file:
            lines.append(f"  in {self.where}")
        lines += [f"    {line}" for line in self.excerpt.splitlines()]
        if self.advice:
            lines.append(f"  {self.advice}")
        return "\n".join(lines)


Say = Callable[..., None]  # takes a code and its facts


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
    """The exception for a fatal problem; the caller raises it.

    `code` is one of the catalogue and gives the severity. `message` says what is wrong, `advice` what to do
    next, `where` the file, line and column, `excerpt` the line in question.
    """
    severity = CODES[code].severity
    return BurrowError(Problem(severity, code, message, advice, where, excerpt=excerpt))
