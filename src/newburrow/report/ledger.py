"""`ledger.csv` and `follow-ups.csv`: what became of every object, and what a person must still do."""

from __future__ import annotations

from collections.abc import Callable
from itertools import chain
from typing import BinaryIO

from newburrow.core import csvfile
from newburrow.decide.marks import FOLLOW_UP_COLUMNS, FOLLOW_UPS
from newburrow.store.journal import ledger
from newburrow.store.journal.follow_ups import PLACES
from newburrow.store.journal.journal import Journal
from newburrow.write.output import FolderOutput

LEDGER = ledger.COLUMNS
PLACES_COLUMNS = ("kind", "what", "title", "old_address", "new_address", "detail")


def write_fates(open_file: Callable[[str], BinaryIO], journal: Journal) -> None:
    """Write what became of every object."""
    csvfile.write(open_file("ledger.csv"), LEDGER, journal.ledger.table_rows())


def write_follow_ups(output: FolderOutput, journal: Journal) -> None:
    """Write what is left to do, the worst first, and where each thing is that is to be done in several places.

    The table of an earlier run, with what a person has noted in it, stays until the new one is whole.
    """
    with output.replacing(FOLLOW_UPS) as stream:
        csvfile.write(stream, FOLLOW_UP_COLUMNS, journal.follow_ups.grouped())
    open_file = output.plain
    places = journal.follow_ups.places()
    first = next(places, None)
    if first:
        csvfile.write(open_file(PLACES), PLACES_COLUMNS, chain([first], places))
