"""The history of a page: what it said before."""

from __future__ import annotations

from datetime import datetime
from typing import ClassVar

from newburrow.model.record import Body, Record


class Revision(Record, frozen=True, kw_only=True, omit_defaults=True):
    """One state of an entry in its history. The last one is the entry itself, and is not repeated."""

    table: ClassVar[str] = "revision"

    entry: str = ""  # key of the entry
    number: int = 0  # counted from 1, the oldest first
    author: str = ""  # key of an author
    published: datetime | None = None  # when this state was saved
    title: str = ""  # the title that the entry had then; empty: as now
    note: str = ""  # what the author said of the change
    minor: bool = False  # whether the author called the change a minor one
    body: Body = Body()
