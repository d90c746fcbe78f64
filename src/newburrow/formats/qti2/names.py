"""Identifiers of an item of QTI 2: a letter first, then letters, digits, `-`, `_` and `.` (section 3.3)."""

from __future__ import annotations

import re

from newburrow.model import Choice, Question
from newburrow.model.course import GAP

_WITH_GAPS = ("text-entry", "pattern-match", "inline-choice")
_ALLOWED = re.compile(r"[A-Za-z_][A-Za-z0-9_.-]{0,31}\Z")


class Names:
    """The names of choices and responses of one question as its item has them."""

    def __init__(
        self, question: Question, response: str = "RESPONSE", given: set[str] | None = None
    ) -> None:
        """`response` is the identifier of the only response; `given` are identifiers that the item already has."""
        gaps = dict.fromkeys(answer.gap for answer in question.answers if answer.gap)
        grouped = dict.fromkeys(
            choice.group
            for choice in question.choices
            if choice.group not in ("", "source", "target")
        )
        marked = dict.fromkeys(GAP.findall(question.prompt.text))
        if question.kind == "inline-choice":
            gaps |= grouped
        if question.kind in _WITH_GAPS and len(marked) > 1:  # also those that no answer fills
            gaps |= marked
        self.gaps = list(gaps)
        self._response = response
        self._taken = set() if given is None else given
        self._given: dict[str, str] = {}
        self._parts: dict[str, Names] = {}
        for part in question.parts:
            self._parts[part.key] = Names(part, self.of(part.key), self._taken)
        for name in (*(choice.name for choice in question.choices), *self.gaps):
            self.of(name)

    def of(self, name: str) -> str:
        """The identifier for a name; a name that is one stays, unless the item has it already."""
        if name not in self._given:
            if _ALLOWED.match(name):
                made = name
            else:
                made = f"n{len(self._taken) + 1}"
            while made in self._taken:
                made += "_"
            self._given[name] = made
            self._taken.add(made)
        return self._given[name]

    def choice(self, choice: Choice) -> str:
        """The identifier of a choice."""
        return self.of(choice.name)

    def response(self, gap: str) -> str:
        """The identifier of the response for a gap, or of the only one."""
        if gap and self.gaps:
            return self.of(gap)
        return self._response

    def responses(self) -> list[str]:
        """The gaps that have a response each; the empty name where there is one response."""
        return self.gaps or [""]

    def part(self, key: str) -> Names:
        """The names of one part of a composite."""
        return self._parts[key]
