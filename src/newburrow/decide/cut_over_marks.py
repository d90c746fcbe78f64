"""What a person has ticked off in `cut-over.csv`."""

from __future__ import annotations

from msgspec import Struct

from newburrow.core import csvfile
from newburrow.decide.move_folder import MoveFolder

CUT_OVER = "cut-over.csv"
COLUMNS = ("step", "when", "what", "done", "note")


class Tick(Struct, frozen=True):
    """What a person has written beside a step."""

    done: str
    note: str


def ticks(folder: MoveFolder) -> dict[str, Tick]:
    """What stands beside the steps of an earlier run, by step.

    Raises BurrowError, with the line, where the table cannot be read: else what was ticked off would be lost.
    """
    if not folder.has(CUT_OVER):
        return {}
    rows = csvfile.read(folder.path / CUT_OVER, COLUMNS)
    return {
        cells["step"].strip(): Tick(cells["done"].strip(), cells["note"])
        for _line, cells in rows
        if cells["done"].strip() or cells["note"].strip()
    }
