"""What a person has noted in `follow-ups.csv`: which follow-ups are done, and which are harmless."""

from __future__ import annotations

from collections.abc import Iterator

from newburrow.core import csvfile
from newburrow.decide.move_folder import MoveFolder
from newburrow.store.journal.follow_ups import Mark

FOLLOW_UPS = "follow-ups.csv"
COLUMNS = (
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


def marks(folder: MoveFolder) -> Iterator[Mark]:
    """The rows of an earlier run in which a person has noted something.

    Raises BurrowError, with the line, where the table cannot be read: else what was noted would be lost.
    """
    path = folder.path / FOLLOW_UPS
    if not folder.has(FOLLOW_UPS) or "key" not in csvfile.columns_of(path):
        return
    for _line, cells in csvfile.read(path, COLUMNS):
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
