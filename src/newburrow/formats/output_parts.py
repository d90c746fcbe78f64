"""Files that are written piece by piece, in as many parts as the new host's limit on one file takes."""

from __future__ import annotations

from collections.abc import Callable

from newburrow.formats.base import Output, Refused
from newburrow.formats.xml_output import BufferedFile


def check_size(size: int, limit: int) -> None:
    """Raises Refused for a record that is larger, in bytes, than the host takes a file; 0 is no limit."""
    if 0 < limit < size:
        raise Refused(
            f"it has {size:,} bytes; the host accepts files of {limit:,} at most",
            "Shorten it or divide it, or enter it by hand on the new host.",
        )


class Parts:
    """One output, each part of it whole by itself. Without a limit there is one, under the plain name."""

    def __init__(
        self, output: Output, name: str, limit: int, head: Callable[[int], str], tail: str
    ) -> None:
        """`head` gives the beginning of the part of a number, counted from 1; `limit` is in bytes, 0 for none."""
        self.output, self.name, self.limit, self.head, self.tail = (
            output,
            name,
            limit,
            head,
            tail,
        )
        self.number = self.size = 0
        self.empty = True
        self.file: BufferedFile | None = None

    def check(self, piece: str) -> None:
        """Raises Refused for a record that makes a part too large for the host even if it is alone in it."""
        if self.limit:
            check_size(self._bytes(self.head(self.number + 1) + piece + self.tail), self.limit)

    def put(self, piece: str, joint: str = "") -> None:
        """Write a whole record, into this part or, if it would exceed the limit, into the next.

        `joint` goes before a record that is not the first of its part. Raises Refused like `check`.
        """
        self.check(piece)
        new = self._bytes(joint + piece + self.tail)
        if self.file and self.limit and self.size + new > self.limit:
            self._end()
        if self.file is None:
            self.begin()
        self._write(piece if self.empty else joint + piece)
        self.empty = False

    def begin(self) -> None:
        """Open the next part."""
        self.number += 1
        stem, dot, extension = self.name.rpartition(".")
        self.file = BufferedFile(
            self.output.open(
                f"{stem}-{self.number}{dot}{extension}" if self.limit else self.name
            )
        )
        self.size, self.empty = 0, True
        self._write(self.head(self.number))

    def close(self) -> None:
        """End the last part; an output without records has one part all the same."""
        if self.number == 0:
            self.begin()
        self._end()

    def _end(self) -> None:
        if self.file:
            self._write(self.tail)
            self.file.close()
            self.file = None

    def _write(self, piece: str) -> None:
        assert self.file is not None
        self.file.put(piece)
        self.size += self._bytes(piece)

    def _bytes(self, piece: str) -> int:
        if self.limit:
            return len(piece.encode("utf-8", "replace"))
        return 0
