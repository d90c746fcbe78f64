"""The answers to old addresses, to those who look them up and add to them."""

from __future__ import annotations

from typing import Protocol

from newburrow.store.journal.rows import OldAddress


class Answers(Protocol):
    """The answers to old addresses."""

    def get(self, key: str) -> OldAddress | None:
        """The answer to an old address; None where it is unknown."""
        ...

    def add(self, row: OldAddress) -> object:
        """Set the answer to an old address that has none."""
        ...
