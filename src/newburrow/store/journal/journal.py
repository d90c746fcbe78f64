"""The journal of one move: where each thing goes, what became of it, and what a person must still do.

It is in two SQLite files beside the content store while a move runs: whatever would otherwise
grow in memory with the export (the address map, the fates) is kept there.
"""

from __future__ import annotations

import sqlite3
from pathlib import Path

from newburrow.model.record_types import ledger_order
from newburrow.store.journal.edits import EditTable
from newburrow.store.journal.existing import ExistingTable
from newburrow.store.journal.files import FileTable, Shown
from newburrow.store.journal.follow_ups import FollowUps
from newburrow.store.journal.handing_over import HandingOver
from newburrow.store.journal.ids import IdTable
from newburrow.store.journal.ledger import Ledger
from newburrow.store.journal.pending import DataLines, TermLists
from newburrow.store.journal.plan import PlanTable
from newburrow.store.journal.quizzes import QuizTable
from newburrow.store.journal.rows import GONE
from newburrow.store.journal.schema import LAYOUT, LOOK_UP, OUTCOME, PLAN
from newburrow.store.journal.urls import UrlTable
from newburrow.store.journal.walk import NoLinks, WalkTable


def outcome_of(path: Path) -> Path:
    """The file with the outcome, beside the one with the plan."""
    return path.with_name(f"{path.name}-outcome")


class Journal:
    """The working tables of one move. Use as a context manager; its files go when it is closed, unless it is kept.

    The plan and the outcome are in two files, so that other processes can read the complete plan
    (`JournalReader`) while this one writes the outcome.
    """

    def __init__(self, path: Path) -> None:
        """`path` is where it is kept when the move is finished; until then an earlier one stays there."""
        self._kept = path
        self.path = path.with_name(f"{path.name}-now")
        self.outcome_path = outcome_of(self.path)
        self._remove()
        self._db = sqlite3.connect(self.path, isolation_level=None)
        self._db.execute("ATTACH ? AS outcome", (str(self.outcome_path),))
        for name in ("main", "outcome"):
            self._db.execute(f"PRAGMA {name}.journal_mode = OFF")
            self._db.execute(f"PRAGMA {name}.synchronous = OFF")
        for statement in (PLAN + OUTCOME).split(";"):
            self._db.execute(statement)
        self._db.execute("BEGIN")
        self.plan = PlanTable(self._db)
        self.files = FileTable(self._db)
        self.shown = Shown(self._db)
        self.urls = UrlTable(self._db)
        self.existing = ExistingTable(self._db)
        self.ids = IdTable(self._db)
        self.edits = EditTable(self._db)
        self.ledger = Ledger(self._db, ledger_order())
        self.follow_ups = FollowUps(self._db)
        self.data_lines = DataLines(self._db)
        self.term_lists = TermLists(self._db)
        self.walk = WalkTable(self._db)
        self.quizzes = QuizTable(self._db)
        self.handed = HandingOver(self._db)
        self.lost = NoLinks()

    def __enter__(self) -> Journal:
        return self

    def __exit__(self, *_exc: object) -> None:
        self._db.close()
        self._remove()

    def keep(self) -> None:
        """The move is finished: put the files in the place of those of an earlier move, for `KeptJournal` to read."""
        for statement in LOOK_UP.split(";"):
            self._db.execute(statement)
        self._db.execute("COMMIT")
        self._db.execute(f"PRAGMA outcome.user_version = {LAYOUT}")
        self._db.close()
        self.path.replace(self._kept)
        self.outcome_path.replace(outcome_of(self._kept))

    def _remove(self) -> None:
        for file in (self.path, self.outcome_path):
            file.unlink(missing_ok=True)

    @property
    def connection(self) -> sqlite3.Connection:
        """The connection, for what reads the outcome again before it is kept."""
        return self._db

    def publish(self) -> None:
        """Write everything to the files: from now on other processes can read the plan."""
        self._db.execute("COMMIT")
        self._db.execute("BEGIN")

    def drop_file(self, key: str, why: str) -> None:
        """Leave out a file that had a place; the old addresses that led to it become gone."""
        name, new = self.files.get(key)
        self.files.drop(key)
        if name and new:
            self.urls.drop(new, GONE, why)
