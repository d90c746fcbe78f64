"""`ledger.csv` and `follow-ups.csv`: what became of every object, and what a person must still do."""

from __future__ import annotations

from collections.abc import Callable
from itertools import chain
from typing import BinaryIO

from newburrow.core import csvfile
from newburrow.store.journal import ledger
from newburrow.store.journal.follow_ups import PLACES
from newburrow.store.journal.journal import Journal

LEDGER = ledger.COLUMNS
PLACES_COLUMNS = ("kind", "what", "title", "old_address", "new_address", "detail")
FOLLOW_UPS = ("kind", "severity", "title", "old_address", "new_address", "what", "suggestion")


def write_fates(open_file: Callable[[str], BinaryIO], journal: Journal) -> None:
    """Write what became of every object."""
    csvfile.write(open_file("ledger.csv"), LEDGER, journal.ledger.table_rows())


def write_follow_ups(open_file: Callable[[str], BinaryIO], journal: Journal) -> None:
    """Write what is left to do, the worst first, and where each thing is that is to be done in several places."""
    csvfile.write(open_file("follow-ups.csv"), FOLLOW_UPS, journal.follow_ups.grouped())
    places = journal.follow_ups.places()
    first = next(places, None)
    if first:
        csvfile.write(open_file(PLACES), PLACES_COLUMNS, chain([first], places))
