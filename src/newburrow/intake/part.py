"""One file of an export, wherever it lies: a name, a size, and a way to open it."""

from __future__ import annotations

import io
import lzma
import tempfile
import zipfile
import zlib
from collections.abc import Callable
from typing import BinaryIO, cast

from msgspec import Struct

from newburrow.core.problem import refusal
from newburrow.intake.web_answer import WebAnswer
from newburrow.model.record import Where

_UNREADABLE = (
    OSError,
    zipfile.BadZipFile,
    zlib.error,
    EOFError,
    RuntimeError,
    NotImplementedError,
    lzma.LZMAError,
)
UNREADABLE = (
    "encrypted",
    "damaged",
    "unreadable",
)  # codes of refusals: the bytes of a file cannot be had
_JUNK_FOLDER = "__MACOSX/"
_JUNK_FILES = (".DS_Store", "Thumbs.db", "desktop.ini")


class Part(Struct, frozen=True):
    """One file of an export."""

    name: str  # within the source, with forward slashes
    size: int  # bytes; -1 where that is known only when it has been read
    label: str  # for messages: which file in which archive
    opener: Callable[[], BinaryIO]
    # a stream that can be sought in, where there is one
    seek: Callable[[], BinaryIO] | None = None
    # called with the offset up to which it has been read, in bytes; None where that is counted elsewhere
    meter: Callable[[int], None] | None = None
    address: str = ""  # that it had on the web, where the source says it
    charset: str = ""  # the encoding that a server named with it (RFC 9110 section 8.3.2)

    def open(self, buffer: int = 1 << 16) -> BinaryIO:
        """A new stream of the bytes, of which at least `buffer` are read at a time.

        Opening and reading it raise BurrowError if the bytes cannot be read.
        """
        try:
            return cast(
                BinaryIO,
                io.BufferedReader(_Checked(self.opener(), self.label, self.meter), buffer),
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


class LeftOut(Struct, frozen=True):
    """A file that is listed and not read."""

    name: str  # within the source, with forward slashes
    label: str  # for messages
    reason: str  # completes "it ..."
    target: str = ""  # of a link: the name within the source that it leads to


class Contents(Struct, frozen=True):
    """What is in a folder or an archive."""

    parts: tuple[Part, ...]
    left_out: tuple[LeftOut, ...] = ()
    answers: tuple[WebAnswer, ...] = ()  # of a web archive: what other addresses answered
    united: tuple[
        str, ...
    ] = ()  # names of files on the disk that are no parts, but went into them


def junk(name: str) -> str:
    """The reason if a file is one that operating systems add by themselves; empty for any other."""
    if name.startswith(_JUNK_FOLDER) or name.rpartition("/")[2] in _JUNK_FILES:
        return "is a file that an operating system adds by itself"
    return ""


def numbered_name(name: str, seen: dict[str, int]) -> str:
    """A name that stands for one file: a second of the same name gets a number, before its extension."""
    seen[name] = seen.get(name, 0) + 1
    if seen[name] == 1:
        return name
    folder, slash, file = name.rpartition("/")
    stem, dot, extension = file.rpartition(".")
    if not stem:
        stem, dot, extension = file, "", ""
    return numbered_name(f"{folder}{slash}{stem} ({seen[name]}){dot}{extension}", seen)


def folders_around(name: str) -> list[str]:
    """All folders around a file, the outermost first."""
    steps = name.split("/")[:-1]
    return ["/".join(steps[: n + 1]) for n in range(len(steps))]


class _Checked(io.RawIOBase):
    """A stream whose damage shows as a plain message: that of an archive is found only while it is read."""

    def __init__(
        self, inner: BinaryIO, label: str, meter: Callable[[int], None] | None
    ) -> None:
        self._inner, self._label, self._meter = inner, label, meter
        self._place = 0

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
        self._place += len(data)
        if self._meter:
            self._meter(self._place)
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
