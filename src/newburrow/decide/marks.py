"""What a person has noted in the tables that a move writes: what is done, and what is harmless."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from msgspec import Struct

from newburrow.core import csvfile
from newburrow.store.journal.follow_ups import Mark

FOLLOW_UPS = "follow-ups.csv"
FOLLOW_UP_COLUMNS = (
    "kind",
    "severity",
    "title",
    "old_address",
    "new_address",
    "what",
    "suggestion",
    "places",
    "key",
    "done",
    "accepted",
    "note",
)
CUT_OVER = "cut-over.csv"
CUT_OVER_COLUMNS = ("step", "when", "what", "done", "note")


class Tick(Struct, frozen=True):
    """What a person has written beside a step."""

    done: str
    note: str


def ticks(folder: Path) -> dict[str, Tick]:
    """What stands beside the steps of an earlier run in a move folder, by step.

    Raises BurrowError, with the line, where the table cannot be read: else what was ticked off would be lost.
    """
    if not (folder / CUT_OVER).is_file():
        return {}
    rows = csvfile.read(folder / CUT_OVER, CUT_OVER_COLUMNS)
    return {
        cells["step"].strip(): Tick(cells["done"].strip(), cells["note"])
        for _line, cells in rows
        if cells["done"].strip() or cells["note"].strip()
    }


def marks(folder: Path) -> Iterator[Mark]:
    """The rows of an earlier run in a move folder in which a person has noted something.

    Raises BurrowError, with the line, where the table cannot be read: else what was noted would be lost.
    """
    path = folder / FOLLOW_UPS
    if not path.is_file() or "key" not in csvfile.columns_of(path):
        return
    for _line, cells in csvfile.read(path, FOLLOW_UP_COLUMNS):
        done, accepted = cells["done"].strip(), cells["accepted"].strip()
        if done or accepted or cells["note"].strip():
            places = cells["places"].strip()
            yield Mark(
                cells["key"].strip(),
                int(places) if places.isdecimal() else 1,
                done,
                accepted,
                cells["note"],
            )


def check(folder: Path) -> None:
    """Raises BurrowError, with the line, where one of the tables in a move folder cannot be read."""
    ticks(folder)
    for _mark in marks(folder):
        pass
