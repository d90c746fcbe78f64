"""The answers to old addresses, to those who look them up and add to them."""

from __future__ import annotations

from typing import Protocol

from newburrow.store.journal.rows import OldAddress


class Answers(Protocol):
    """The answers to old addresses."""

    def get(self, key: str) -> OldAddress | None:
        """The answer to an old address; None where it is unknown."""
        ...

    def in_any_case(self, key: str) -> OldAddress | None:
        """The answer to the old addresses that differ from this one in letter case alone; None if they differ in it."""
        ...

    def add(self, row: OldAddress) -> object:
        """Set the answer to an old address that has none."""
        ...
