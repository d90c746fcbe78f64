"""Large records that were asked for lately: many pages can be below one that lists them all, and each asks for it."""

from __future__ import annotations

from msgspec import Struct

_LARGE = 32_000  # bytes; a smaller one is read in less time than it takes to look for it here
_MOST = 16_000_000  # bytes of all that are held


class LargeRecords:
    """The last ones asked for, as many as take a bounded number of bytes."""

    def __init__(self) -> None:
        self._held: dict[tuple[type[Struct], str], tuple[Struct, int]] = {}
        self._size = 0

    def get(self, kind: type[Struct], key: str) -> Struct | None:
        """The record, if it is held."""
        found = self._held.pop((kind, key), None)
        if found is None:
            return None
        self._held[kind, key] = found  # as the last one
        return found[0]

    def hold(self, record: Struct, key: str, size: int) -> None:
        """Hold the record of a key that takes so many bytes, if it is a large one."""
        if not _LARGE <= size <= _MOST:
            return
        self._held[type(record), key] = record, size
        self._size += size
        while self._size > _MOST:
            oldest = next(iter(self._held))
            self._size -= self._held.pop(oldest)[1]

    def clear(self) -> None:
        """Forget all, since one was changed."""
        self._held.clear()
        self._size = 0
