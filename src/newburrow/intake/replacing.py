"""Words in a file that stand for others, such as a mark in the place of the site's address."""

from __future__ import annotations

import io
import re
from collections.abc import Mapping
from typing import BinaryIO, cast

from msgspec.structs import replace

from newburrow.intake.part import Part

_BLOCK = 1 << 18


def replaced(part: Part, words: Mapping[str, str]) -> Part:
    """The part, in UTF-8, with each of these words replaced wherever it is."""
    if not words:
        return part
    table = {word.encode(): new.encode() for word, new in words.items()}
    return replace(
        part, opener=lambda: cast(BinaryIO, _ReplacedStream(part.open(), table)), seek=None
    )


class _ReplacedStream(io.RawIOBase):
    """A stream in which words are replaced while it is read, also those that two blocks share."""

    def __init__(self, inner: BinaryIO, table: dict[bytes, bytes]) -> None:
        self._inner, self._table = inner, table
        longest = sorted(table, key=len, reverse=True)
        self._words = re.compile(b"|".join(map(re.escape, longest)))
        self._longest = len(longest[0])
        self._waiting, self._ready, self._ended = b"", b"", False

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(cast(bytearray, buffer))
        while not self._ready and not self._ended:
            self._read_block()
        data, self._ready = self._ready[: len(view)], self._ready[len(view) :]
        view[: len(data)] = data
        return len(data)

    def _read_block(self) -> None:
        block = self._inner.read(_BLOCK)
        self._ended = not block
        text = self._waiting + block
        # A word that begins in the last bytes may go on in the next block.
        if self._ended:
            safe = len(text)
        else:
            safe = max(0, len(text) - self._longest + 1)
        pieces, place = [], 0
        for found in self._words.finditer(text):
            if found.start() >= safe:
                break
            pieces += [text[place : found.start()], self._table[found.group()]]
            place = found.end()
        end = max(place, safe)
        pieces.append(text[place:end])
        self._ready, self._waiting = b"".join(pieces), text[end:]

    def close(self) -> None:
        if not self.closed:
            self._inner.close()
        super().close()
