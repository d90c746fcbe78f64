"""The journal as other processes have it: the plan is read from its file, the outcome is noted.

Notes go back to the first process, which writes them in the order of the entries.
"""

from __future__ import annotations

import os
import sqlite3
from pathlib import Path
from urllib.parse import quote

from msgspec import Struct

from newburrow.core.problem import Problem
from newburrow.store.journal.edits import EditReader
from newburrow.store.journal.existing import ExistingReader
from newburrow.store.journal.files import FileReader
from newburrow.store.journal.ids import IdReader
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.plan import PlanReader
from newburrow.store.journal.quizzes import QuizSides
from newburrow.store.journal.rows import LedgerRow, OldAddress
from newburrow.store.journal.urls import UrlReader
from newburrow.store.journal.walk import WalkedLink


class JournalNotes(Struct, array_like=True):
    """What became of one entry, to be written into the journal later."""

    ledger: list[LedgerRow] = []
    follow_ups: list[Problem] = []
    data_lines: list[str] = []
    term_lists: list[tuple[str, str, str]] = []
    shown: list[str] = []
    lost: list[tuple[str, str]] = []  # old address, and whether it is gone or unknown
    walked: list[WalkedLink] = []
    quizzes: list[QuizSides] = []
    urls: list[OldAddress] = []  # addresses found in bodies for which nothing was planned

    def add(self, later: JournalNotes) -> None:
        """Add what was noted after this."""
        self.ledger += later.ledger
        self.follow_ups += later.follow_ups
        self.data_lines += later.data_lines
        self.term_lists += later.term_lists
        self.shown += later.shown
        self.walked += later.walked
        self.quizzes += later.quizzes
        self.urls += later.urls

    def write(self, journal: Journal) -> None:
        """Write all of it into the journal."""
        if self.ledger:
            journal.ledger.add(*self.ledger)
        if self.follow_ups:
            journal.follow_ups.add(*self.follow_ups)
        for line in self.data_lines:
            journal.data_lines.add(line)
        for term, title, new in self.term_lists:
            journal.term_lists.add(term, title, new)
        for new in self.shown:
            journal.shown.add(new)
        for row in self.urls:
            journal.urls.add_late(row)
        journal.walk.add(*self.walked)
        journal.quizzes.add(*self.quizzes)


class JournalReader:
    """The plan from its file, and the notes on what becomes of entries. Use as a context manager."""

    def __init__(self, path: Path) -> None:
        # The plan is complete and nobody writes to the file, so no lock is needed.
        address = f"file:{quote(os.fsencode(path))}?immutable=1"
        self._db = sqlite3.connect(address, uri=True, isolation_level=None)
        self._notes = JournalNotes()
        self.plan = PlanReader(self._db)
        self.files = FileReader(self._db)
        self.existing = ExistingReader(self._db)
        self.ids = IdReader(self._db)
        self.edits = EditReader(self._db)
        self.planned_urls = UrlReader(self._db)
        self.urls = _UrlNotes(self)
        self.ledger = _LedgerNotes(self)
        self.follow_ups = _FollowUpNotes(self)
        self.shown = _ShownNotes(self)
        self.lost = _LostNotes(self)
        self.data_lines = _DataLineNotes(self)
        self.term_lists = _TermListNotes(self)

    def __enter__(self) -> JournalReader:
        return self

    def __exit__(self, *_exc: object) -> None:
        self._db.close()

    @property
    def notes(self) -> JournalNotes:
        """What was noted since the last `take_notes`."""
        return self._notes

    def take_notes(self) -> JournalNotes:
        """What was noted since the last call."""
        notes, self._notes = self._notes, JournalNotes()
        return notes


class _LedgerNotes:
    def __init__(self, reader: JournalReader) -> None:
        self.reader = reader

    def add(self, *rows: LedgerRow) -> None:
        self.reader.notes.ledger.extend(rows)


class _FollowUpNotes:
    def __init__(self, reader: JournalReader) -> None:
        self.reader = reader

    def add(self, *problems: Problem) -> None:
        self.reader.notes.follow_ups.extend(problems)


class _ShownNotes:
    def __init__(self, reader: JournalReader) -> None:
        self.reader = reader

    def add(self, new: str, /) -> None:
        self.reader.notes.shown.append(new)


class _LostNotes:
    def __init__(self, reader: JournalReader) -> None:
        self.reader = reader

    def add(self, old: str, leads: str) -> None:
        self.reader.notes.lost.append((old, leads))


class _DataLineNotes:
    def __init__(self, reader: JournalReader) -> None:
        self.reader = reader

    def add(self, line: str, /) -> None:
        self.reader.notes.data_lines.append(line)


class _TermListNotes:
    def __init__(self, reader: JournalReader) -> None:
        self.reader = reader

    def add(self, term: str, title: str, new: str) -> None:
        self.reader.notes.term_lists.append((term, title, new))


class _UrlNotes:
    def __init__(self, reader: JournalReader) -> None:
        self.reader = reader

    def get(self, key: str) -> OldAddress | None:
        return self.reader.planned_urls.get(key)

    def in_any_case(self, key: str) -> OldAddress | None:
        return self.reader.planned_urls.in_any_case(key)

    def add(self, row: OldAddress) -> None:
        self.reader.notes.urls.append(row)
