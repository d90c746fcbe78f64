"""The journal of a finished move, as it lies in the move folder: to read, not to write."""

from __future__ import annotations

import os
import sqlite3
from pathlib import Path
from urllib.parse import quote

from newburrow.core.problem import refusal
from newburrow.model.record_types import ledger_order
from newburrow.store.journal.edits import EditReader
from newburrow.store.journal.existing import ExistingReader
from newburrow.store.journal.files import FileReader
from newburrow.store.journal.follow_ups import FollowUps
from newburrow.store.journal.handed_over import HandedOver
from newburrow.store.journal.journal import outcome_of
from newburrow.store.journal.ledger import Ledger
from newburrow.store.journal.pending import DataLines
from newburrow.store.journal.plan import PlanTable
from newburrow.store.journal.schema import LAYOUT
from newburrow.store.journal.urls import UrlTable

_AGAIN = "Run `newburrow move {folder}` again; it writes the same result."


class KeptJournal:
    """What a finished move decided and did. Use as a context manager.

    Raises BurrowError where the move was not finished, was made by another version, or the files are damaged.
    """

    def __init__(self, path: Path) -> None:
        outcome = outcome_of(path)
        advice = _AGAIN.format(folder=path.parent)
        if not path.is_file() or not outcome.is_file():
            raise refusal(
                "not-moved",
                f"{str(path.parent)!r} has no finished move of this version: its journal is missing.",
                advice,
            )
        try:
            self._db = sqlite3.connect(_read_only(path), uri=True, isolation_level=None)
            self._db.execute("ATTACH ? AS outcome", (_read_only(outcome),))
            layout = self._db.execute("PRAGMA outcome.user_version").fetchone()[0]
            self._db.execute("SELECT count(*) FROM place").fetchone()
        except sqlite3.DatabaseError:
            raise refusal(
                "not-moved", f"The journal of {str(path.parent)!r} is damaged.", advice
            ) from None
        if layout != LAYOUT:
            raise refusal(
                "not-moved",
                f"The move in {str(path.parent)!r} was not finished, or was made by another version.",
                advice,
            )
        self.plan = PlanTable(self._db)
        self.files = FileReader(self._db)
        self.urls = UrlTable(self._db)
        self.existing = ExistingReader(self._db)
        self.ledger = Ledger(self._db, ledger_order())
        self.follow_ups = FollowUps(self._db)
        self.handed = HandedOver(self._db)
        self.edits = EditReader(self._db)
        self.data_lines = DataLines(self._db)

    def __enter__(self) -> KeptJournal:
        return self

    def __exit__(self, *_exc: object) -> None:
        self._db.close()


def _read_only(path: Path) -> str:
    return f"file:{quote(os.fsencode(path.resolve()))}?mode=ro"
