"""A stream of bytes that are compressed with Brotli (RFC 7932), a content coding of HTTP."""

from __future__ import annotations

import io
from typing import Any, BinaryIO, cast

_BLOCK = 1 << 14


class BrotliStream(io.RawIOBase):
    """The bytes of a compressed stream. What is not compressed, though it should be, comes as it is.

    Reading it raises EOFError where the stream ends too early, and OSError where it is damaged.
    """

    def __init__(self, packed: BinaryIO) -> None:
        import brotli  # type: ignore[import-untyped]  # heavy: few need it

        self._packed = packed
        self._error: type[Exception] = brotli.error
        self._unpacker: Any = brotli.Decompressor()
        self._has_begun = False
        self._left = b""  # unpacked, and not yet handed out

    def readable(self) -> bool:
        """It is."""
        return True

    def readinto(self, buffer: object) -> int:
        """As of any stream."""
        view = memoryview(cast(bytearray, buffer))
        while not self._left and self._fill(len(view)):
            pass
        data, self._left = self._left[: len(view)], self._left[len(view) :]
        view[: len(data)] = data
        return len(data)

    def _fill(self, most: int) -> bool:
        """Unpack some more, about as many bytes as asked for; whether there may be more."""
        if self._unpacker is None:
            self._left = self._packed.read(most)
            return bool(self._left)
        if self._unpacker.is_finished():
            return False
        block = b""
        if self._unpacker.can_accept_more_data():
            block = self._packed.read(_BLOCK)
            if not block:
                raise EOFError("it ends too early")
        try:
            self._left = self._unpacker.process(block, output_buffer_limit=most)
        except self._error:
            if self._has_begun:
                raise OSError("its compressed bytes are damaged") from None
            self._unpacker, self._left = None, block
        self._has_begun = True
        return True
