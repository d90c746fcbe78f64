"""The journal of one move: a table each for the plan, old addresses, files, ids, ledger and follow-ups."""

from newburrow.store.journal.journal import Journal
from newburrow.store.journal.reader import JournalReader, Notes

__all__ = ["Journal", "JournalReader", "Notes"]
