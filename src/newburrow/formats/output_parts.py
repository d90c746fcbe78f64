"""Files that are written piece by piece, in as many parts as the new host's limit on one file takes."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from newburrow.core.problem import NOWHERE, Problem
from newburrow.formats.base import Output
from newburrow.formats.xml_output import BufferedFile


def too_large(size: int, limit: int, key: str) -> Problem:
    """A single record that is larger than the host takes a file."""
    message = (
        f"It accepts {size:,} bytes by itself; the host accepts files of {limit:,} at most."
    )
    return replace(Problem.at(NOWHERE, "too-large", message=message), object="entry", key=key)


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

    def put(self, piece: str, key: str, joint: str = "") -> list[Problem]:
        """Write a whole record, into this part or, if it would exceed the limit, into the next.

        `joint` goes before a record that is not the first of its part. A record that is larger than the limit by
        itself gets a part of its own.
        """
        new = self._bytes(joint + piece + self.tail)
        if self.file and self.limit and not self.empty and self.size + new > self.limit:
            self._end()
        if self.file is None:
            self.begin()
        self._write(piece if self.empty else joint + piece)
        self.empty = False
        if self.limit and self.size + self._bytes(self.tail) > self.limit:
            return [too_large(self._bytes(piece), self.limit, key)]
        return []

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
