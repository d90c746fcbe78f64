"""A stream of bytes in a content coding of HTTP (RFC 9110 section 8.4.1): gzip, deflate or Brotli."""

from __future__ import annotations

import io
import zlib
from collections.abc import Callable
from typing import Any, BinaryIO, Protocol, cast

_BLOCK = 1 << 14
_MEMBER = b"\x1f\x8b"  # begins each member of a gzip
_BEGINNING = 64  # bytes that show whether a stream is compressed at all
_GZIP, _ZLIB, _RAW = 31, 15, -15  # what `zlib` calls the wrappings
_CUT, _DAMAGED = "its compressed bytes end too early", "its compressed bytes are damaged"


class _Unpacker(Protocol):
    """Unpacks piece by piece, never many more bytes than asked for."""

    def unpack(self, data: bytes, most: int) -> bytes:
        """Some bytes; `data` must be empty for as long as it is full. Raises an error where it is damaged."""

    @property
    def is_full(self) -> bool:
        """Whether more can be unpacked from what it has."""

    @property
    def is_finished(self) -> bool:
        """Whether the end was reached."""


class _Zlib:
    """gzip (RFC 1952), or deflate (RFC 1950); many servers say the latter and send RFC 1951."""

    def __init__(self, wrapping: int) -> None:
        self._wrapping = wrapping
        self._has_begun = False
        self._inner = zlib.decompressobj(wrapping)

    def unpack(self, data: bytes, most: int) -> bytes:
        # A gzip may have further members; anything else behind the end is ignored.
        if self._inner.eof:
            data = self._inner.unused_data + data
            if self._wrapping != _GZIP or not data.startswith(_MEMBER):
                return b""
            self._inner = zlib.decompressobj(_GZIP)
        data = self._inner.unconsumed_tail + data
        try:
            made = self._inner.decompress(data, most)
        except zlib.error:
            if self._has_begun or self._wrapping != _ZLIB:
                raise
            self._wrapping, self._inner = _RAW, zlib.decompressobj(_RAW)
            made = self._inner.decompress(data, most)
        self._has_begun = self._has_begun or bool(data)
        return made

    @property
    def is_full(self) -> bool:
        return bool(self._inner.unconsumed_tail)

    @property
    def is_finished(self) -> bool:
        return self._inner.eof


class _Brotli:
    """Brotli (RFC 7932)."""

    def __init__(self) -> None:
        import brotli  # type: ignore[import-untyped]  # few need it

        self._inner: Any = brotli.Decompressor()
        self._error: type[Exception] = brotli.error

    def unpack(self, data: bytes, most: int) -> bytes:
        try:
            made: bytes = self._inner.process(data, output_buffer_limit=most)
        except self._error as error:
            raise zlib.error(str(error)) from None
        return made

    @property
    def is_full(self) -> bool:
        return not self._inner.can_accept_more_data()

    @property
    def is_finished(self) -> bool:
        return bool(self._inner.is_finished())


_UNPACKERS: dict[str, Callable[[], _Unpacker]] = {
    "gzip": lambda: _Zlib(_GZIP),
    "deflate": lambda: _Zlib(_ZLIB),
    "br": _Brotli,
}
CODINGS = tuple(_UNPACKERS)


class CodedStream(io.RawIOBase):
    """The bytes of a stream in one of `CODINGS`. What is not compressed, though it should be, comes as it is.

    Where the stream is damaged or cut off it ends; `damage` then completes "it was cut off: ...".
    """

    def __init__(self, packed: BinaryIO, coding: str) -> None:
        self.damage = ""
        self._packed = packed
        self._unpacker: _Unpacker | None = _UNPACKERS[coding]()
        self._first = True
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
        if self.damage:
            return False
        block = b""
        if not self._unpacker.is_full:
            block = self._packed.read(_BEGINNING if self._first else _BLOCK)
        ends = not block and not self._unpacker.is_full
        if ends and self._first:  # a body without a byte is whole
            return False
        try:
            self._left = self._unpacker.unpack(block, most)
        except zlib.error:
            if not self._first:
                self.damage = _DAMAGED
                return False
            self._unpacker, self._left = None, block
        self._first = False
        if ends and not self._left:  # else there was more in it than it gave at a time
            self.damage = "" if self._unpacker and self._unpacker.is_finished else _CUT
            return False
        return True
