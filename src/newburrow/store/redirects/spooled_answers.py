"""Answers that are read several times from a source in which that takes long, such as a table of text."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import ExitStack
from typing import BinaryIO

import msgspec

from newburrow.store.journal.rows import OldAddress
from newburrow.store.redirects.all_answers import AllAnswers

_TOGETHER = 500  # answers encoded at a time
_LENGTH = 8  # bytes of the number before them, which says how many bytes follow

_encode = msgspec.msgpack.Encoder().encode
_decode = msgspec.msgpack.Decoder(list[OldAddress]).decode


class SpooledAnswers:
    """The answers of a source. The first complete reading keeps them, with their keys, in a file for the others.

    Use as a context manager: the file goes away with it.
    """

    def __init__(self, source: AllAnswers) -> None:
        self._source = source
        self._files = ExitStack()
        self._kept: BinaryIO | None = None

    def __enter__(self) -> SpooledAnswers:
        return self

    def __exit__(self, *_error: object) -> None:
        self._files.close()

    def __call__(self) -> Iterator[OldAddress]:
        """All answers, in their order; one reading at a time."""
        if self._kept is None:
            return self._first()
        return self._again(self._kept)

    def _first(self) -> Iterator[OldAddress]:
        kept: BinaryIO = self._files.enter_context(tempfile.TemporaryFile())  # noqa: SIM115
        waiting = list[OldAddress]()
        for row in self._source():
            yield row
            waiting.append(row)
            if len(waiting) == _TOGETHER:
                _write(waiting, kept)
                waiting.clear()
        _write(waiting, kept)
        self._kept = kept

    @staticmethod
    def _again(kept: BinaryIO) -> Iterator[OldAddress]:
        kept.seek(0)
        while head := kept.read(_LENGTH):
            yield from _decode(kept.read(int.from_bytes(head)))


def _write(rows: list[OldAddress], stream: BinaryIO) -> None:
    data = _encode(rows)
    stream.write(len(data).to_bytes(_LENGTH) + data)
