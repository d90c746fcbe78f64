"""Where records are looked up: a content store to those who only read records."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Protocol, TypeVar

from newburrow.model.record import Record

R = TypeVar("R", bound=Record)


class RecordLookup(Protocol):
    """Records by type and key."""

    def get(self, kind: type[R], key: str) -> R | None:
        """One record by its key; None where there is none."""
        ...

    def all(self, kind: type[R]) -> Iterator[R]:
        """All records of one type, in the order read."""
        ...
