"""One file of an export, wherever it lies: a name, a size, and a way to open it."""

from __future__ import annotations

import io
import tempfile
import zipfile
import zlib
from collections.abc import Callable
from typing import BinaryIO, cast

from msgspec import Struct

from newburrow.core.problem import refusal
from newburrow.model.record import Where

_UNREADABLE = (
    OSError,
    zipfile.BadZipFile,
    zlib.error,
    EOFError,
    RuntimeError,
    NotImplementedError,
)


class Part(Struct, frozen=True):
    """One file of an export."""

    name: str  # within the source, with forward slashes
    size: int  # bytes
    label: str  # for messages: which file in which archive
    opener: Callable[[], BinaryIO]
    # a stream that can be sought in, where there is one
    seek: Callable[[], BinaryIO] | None = None

    def open(self) -> BinaryIO:
        """A new stream of the bytes. Opening and reading it raise BurrowError if the bytes cannot be read."""
        try:
            return cast(
                BinaryIO, io.BufferedReader(_Checked(self.opener(), self.label), 1 << 16)
            )
        except _UNREADABLE as error:
            raise refusal(
                "unreadable",
                f"This file cannot be read: {reason(error)}.",
                "Download or unpack the export again.",
                Where(self.label),
            ) from None

    def seekable(self) -> BinaryIO:
        """A seekable stream of the bytes; for a part of an archive it is a temporary copy on disk."""
        if self.seek:
            return self.seek()
        copy = tempfile.TemporaryFile()  # noqa: SIM115 (stays open for as long as what is in it is used)
        with self.open() as stream:
            while block := stream.read(1 << 18):
                copy.write(block)
        copy.seek(0)
        return cast(BinaryIO, copy)


class _Checked(io.RawIOBase):
    """A stream whose damage shows as a plain message: that of an archive is found only while it is read."""

    def __init__(self, inner: BinaryIO, label: str) -> None:
        self._inner, self._label = inner, label

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(cast(bytearray, buffer))
        try:
            data = self._inner.read(len(view))
        except _UNREADABLE as error:
            raise refusal(
                "damaged",
                f"The file is damaged: {reason(error)}.",
                "Download the export again.",
                Where(self._label),
            ) from None
        view[: len(data)] = data
        return len(data)

    def close(self) -> None:
        if not self.closed:
            self._inner.close()
        super().close()


def reason(error: Exception) -> str:
    """The reason of an error, in a few plain words."""
    if isinstance(error, OSError) and error.strerror:
        return error.strerror.lower()
    return str(error).rstrip(".") or type(error).__name__
