"""An entry as it comes from the steps."""

from __future__ import annotations

from msgspec import Struct

from newburrow.model.bundle import Bundle
from newburrow.store.journal.reader import JournalNotes
from newburrow.store.journal.rows import LedgerRow


class Converted(Struct, array_like=True):
    """An entry as it goes to the writer; without a bundle it does not go there."""

    key: str
    bundle: Bundle | None
    notes: JournalNotes
    if_written: list[LedgerRow] = []  # the rows of its comments and, last, its own
    tally: dict[str, int] = {}  # of what is reported once for all entries
