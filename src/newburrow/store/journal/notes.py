"""A journal that is only read: what would be written into it is noted, to be written later and in its order."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from msgspec import Struct

from newburrow.core.problem import Problem
from newburrow.store.journal.rows import OldAddress, Place, Settled
from newburrow.store.journal.tables import Journal

_AHEAD = 100  # places read at a time


class Notes(Struct, array_like=True):
    """What one entry wrote into the journal while it was converted."""

    settled: list[Settled] = []
    problems: list[Problem] = []
    aside: list[str] = []
    filed: list[tuple[str, str, str]] = []
    shown: list[str] = []
    found: list[OldAddress] = []  # addresses met in bodies that nothing was planned for

    def add(self, more: Notes) -> None:
        """Take what was noted after this."""
        self.settled += more.settled
        self.problems += more.problems
        self.aside += more.aside
        self.filed += more.filed
        self.shown += more.shown
        self.found += more.found

    def write(self, journal: Journal) -> None:
        """Write all of it."""
        if self.settled:
            journal.settle(*self.settled)
        if self.problems:
            journal.follow_up(*self.problems)
        for line in self.aside:
            journal.set_aside(line)
        for term, title, new in self.filed:
            journal.file_under(term, title, new)
        for new in self.shown:
            journal.show(new)
        for row in self.found:
            journal.answer_later(row)


class NotingJournal(Journal):
    """What is planned, read from its file; nothing is written to that."""

    def __init__(self, path: Path) -> None:
        # Nobody writes to that file any more, so there is nothing to be locked.
        self._db = sqlite3.connect(f"file:{path}?immutable=1", uri=True, isolation_level=None)
        self.notes = Notes()
        self._near: dict[int, Place] = {}

    def place_at(self, number: int) -> Place | None:
        """Where the entry of a number goes; None for one that stays behind. Those after it are read along with it."""
        if number not in self._near:
            rest = "WHERE seq >= ? AND seq < ? ORDER BY seq"
            self._near = {
                place.seq: place for place in self._places(rest, number, number + _AHEAD)
            }
        place = self._near.get(number)
        if place and place.new:
            return place
        return None

    def __exit__(self, *_exc: object) -> None:
        self._db.close()

    def taken_notes(self) -> Notes:
        """What was noted since the last call."""
        notes, self.notes = self.notes, Notes()
        return notes

    def settle(self, *rows: Settled) -> None:
        """Note it."""
        self.notes.settled += rows

    def follow_up(self, *problems: Problem) -> None:
        """Note it."""
        self.notes.problems += problems

    def set_aside(self, data: str) -> None:
        """Note it."""
        self.notes.aside.append(data)

    def file_under(self, term: str, title: str, new: str) -> None:
        """Note it."""
        self.notes.filed.append((term, title, new))

    def show(self, new: str) -> None:
        """Note it."""
        self.notes.shown.append(new)

    def answer(self, row: OldAddress) -> None:
        """Note it."""
        self.notes.found.append(row)
