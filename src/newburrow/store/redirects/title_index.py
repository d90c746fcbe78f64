"""The titles of pages by their new address, from a ledger."""

from __future__ import annotations

import csv
import re
import sqlite3
from pathlib import Path

from newburrow.core import url
from newburrow.model import ENTRY_KINDS

_SPACE = re.compile(r"\s+")


class TitleIndex:
    """The titles of pages by their new address, out of a ledger; kept on disk, since they grow with the site."""

    def __init__(self, ledger: Path) -> None:
        self._db = sqlite3.connect("", check_same_thread=False)
        self._db.execute("CREATE TABLE title (at TEXT PRIMARY KEY, title TEXT) WITHOUT ROWID")
        if ledger.is_file():
            with ledger.open(encoding="utf-8", newline="") as stream:
                rows = (
                    (url.key(row["new_address"]), row["title"])
                    for row in csv.DictReader(stream)
                    if row["fate"] == "moved" and row["kind"] in ENTRY_KINDS
                )
                self._db.executemany("INSERT OR IGNORE INTO title VALUES (?, ?)", rows)

    def of(self, new: str) -> str:
        """The title that the page at an address must hold, as titles are compared; empty where none is known."""
        row = self._db.execute(
            "SELECT title FROM title WHERE at = ?", (url.key(new),)
        ).fetchone()
        if row:
            return _SPACE.sub(" ", str(row[0])).strip().casefold()
        return ""
