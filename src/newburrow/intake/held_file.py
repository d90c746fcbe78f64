"""A file that stays open for as long as anything that is in it can be opened."""

from __future__ import annotations

import weakref
from typing import BinaryIO


class HeldFile:
    """Holds an open file; whoever needs it keeps a reference to this."""

    def __init__(self, file: BinaryIO) -> None:
        self.file = file
        self._close = weakref.finalize(
            self, file.close
        )  # also when it goes with a circle of objects

    def __enter__(self) -> HeldFile:
        return self

    def __exit__(self, kind: object, *_rest: object) -> None:
        """Close at once where the archive is refused; else stay open for what was found in it."""
        if kind is not None:
            self._close()


class HeldView:
    """Reads a held file, or a range of it, from a place of its own: reading one view does not move another."""

    def __init__(self, held: HeldFile, begin: int = 0, end: int | None = None) -> None:
        """`begin` and `end` are offsets in bytes; without an end it goes on to that of the file."""
        self._held, self._place, self._end = held, begin, end

    def read(self, size: int = -1) -> bytes:
        """At most so many bytes; all if negative."""
        if self._end is not None:
            left = self._end - self._place
            size = left if size < 0 else min(size, left)
        self._held.file.seek(self._place)
        data = self._held.file.read(size)
        self._place += len(data)
        return data

    def close(self) -> None:
        """The file itself stays open."""
