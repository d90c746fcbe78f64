"""Folders, files and zips, seen alike: a source is a list of parts, each of which can be opened.

Nothing is ever unpacked under a name that an export gives, so a name cannot lead out of a folder.
"""

from __future__ import annotations

import hashlib
import io
import zipfile
import zlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import BinaryIO, cast

from msgspec import Struct

from newburrow.intake.prolog import Prolog, read_prolog
from newburrow.model import Where
from newburrow.problem import stop

HEAD = 4096  # bytes read to recognise a part
_BOMB_SIZE = 64 * 1024 * 1024
_BOMB_RATIO = 500  # deflate reaches 1,032 at best, real text about 10
_UNREADABLE = (OSError, zipfile.BadZipFile, zlib.error, EOFError, RuntimeError, NotImplementedError)
_JUNK = ("__MACOSX/", ".DS_Store", "Thumbs.db", "desktop.ini")


class Part(Struct, frozen=True):
    """One file of an export, wherever it lies."""

    name: str  # within the source, with forward slashes
    size: int  # bytes
    label: str  # for messages: which file in which zip
    opener: Callable[[], BinaryIO]

    def open(self) -> BinaryIO:
        """A new stream of the bytes. It and the stream raise BurrowError where these cannot be read."""
        try:
            return cast(BinaryIO, io.BufferedReader(_Checked(self.opener(), self.label), 1 << 16))
        except _UNREADABLE as error:
            raise stop(
                "unreadable",
                f"This file cannot be read: {_reason(error)}.",
                "Download or unpack the export again.",
                Where(self.label),
            ) from None

    def head(self) -> Head:
        """What the beginning of the part says about it."""
        with self.open() as stream:
            start = stream.read(HEAD)
        prolog = None
        if start.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<") or start[:2] in (b"\xff\xfe", b"\xfe\xff"):
            with self.open() as stream:
                prolog = read_prolog(stream, self.label)
        return Head(self.name, start, prolog)


class Head(Struct, frozen=True):
    """What a format is recognised by: never the extension alone."""

    name: str
    start: bytes  # the first bytes, at most HEAD
    prolog: Prolog | None  # where the part is XML


class Source(Struct, frozen=True):
    """One thing that the administrator handed in, with all the files in it."""

    path: Path
    parts: tuple[Part, ...]

    def fingerprint(self) -> str:
        """A digest that changes with the content (SHA-256, hexadecimal), without unpacking a zip."""
        digest = hashlib.sha256()
        if self.path.is_file():
            with self.path.open("rb") as stream:
                while block := stream.read(1 << 20):
                    digest.update(block)
        else:
            for part in self.parts:
                digest.update(f"{part.name}\0{part.size}\0".encode("utf-8", "surrogatepass"))
                with part.open() as stream:
                    while block := stream.read(1 << 20):
                        digest.update(block)
        return digest.hexdigest()


class _Checked(io.RawIOBase):
    """A stream whose damage shows as a plain message: that of a zip is found only while it is read."""

    def __init__(self, inner: BinaryIO, label: str) -> None:
        self._inner, self._label = inner, label

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(cast(bytearray, buffer))
        try:
            data = self._inner.read(len(view))
        except _UNREADABLE as error:
            raise stop(
                "damaged", f"The file is damaged: {_reason(error)}.", "Download the export again.", Where(self._label)
            ) from None
        view[: len(data)] = data
        return len(data)

    def close(self) -> None:
        if not self.closed:
            self._inner.close()
        super().close()


def _reason(error: Exception) -> str:
    if isinstance(error, OSError) and error.strerror:
        return error.strerror.lower()
    return str(error).rstrip(".") or type(error).__name__


def open_source(path: Path) -> Source:
    """What lies at a path: a folder, a zip or a single file. Raises BurrowError where nothing readable does."""
    try:
        if path.is_dir():
            return Source(path, tuple(_in_folder(path)))
        size = path.stat().st_size
        if size == 0:
            raise stop(
                "empty-file",
                "The file is empty.",
                "Download the export again; a download that was broken off often leaves an empty file.",
                Where(str(path)),
            )
        if zipfile.is_zipfile(path):
            return Source(path, tuple(_in_zip(path)))
        return Source(path, (Part(path.name, size, path.name, lambda: path.open("rb")),))
    except FileNotFoundError:
        raise stop("no-such-file", f"There is no file or folder {str(path)!r}.", _neighbours(path)) from None
    except OSError as error:
        raise stop(
            "unreadable", f"{str(path)!r} cannot be read: {_reason(error)}.", "Check the permissions of the file."
        ) from None


def _neighbours(path: Path) -> str:
    from newburrow.problem import nearest

    try:
        near = nearest(path.name, [other.name for other in path.parent.iterdir()])
    except OSError:
        return f"There is no folder {str(path.parent)!r} either; check the spelling of the path."
    if near:
        return "Did you mean " + " or ".join(repr(str(path.parent / name)) for name in near) + "?"
    return "Check the spelling of the path."


def _in_folder(folder: Path) -> Iterator[Part]:
    for path in sorted(folder.rglob("*"), key=lambda p: p.relative_to(folder).as_posix()):
        name = path.relative_to(folder).as_posix()
        if path.is_symlink() or not path.is_file() or _is_junk(name):
            continue  # a link may lead anywhere on this machine

        def opener(path: Path = path) -> BinaryIO:
            return path.open("rb")

        yield Part(name, path.stat().st_size, f"{folder.name}/{name}", opener)


def _in_zip(path: Path) -> Iterator[Part]:
    try:
        archive = zipfile.ZipFile(path)
    except (zipfile.BadZipFile, OSError, NotImplementedError) as error:
        raise stop(
            "damaged",
            f"The zip is damaged: {_reason(error)}.",
            "Download the export again; if it came in several downloads, all of them are needed.",
            Where(str(path)),
        ) from None
    for info in sorted(archive.infolist(), key=lambda i: i.filename):
        if info.is_dir() or _is_junk(info.filename):
            continue
        label = f"{info.filename} in {path.name}"
        if info.file_size > _BOMB_SIZE and info.file_size > _BOMB_RATIO * max(info.compress_size, 1):
            raise stop(
                "zip-bomb",
                f"The file would unpack to {info.file_size:,} bytes, "
                f"{info.file_size // max(info.compress_size, 1):,} times its size in the zip.",
                "No real export does that. If you trust it, unpack it yourself and hand in the folder.",
                Where(label),
            )
        if info.flag_bits & 1:
            raise stop(
                "encrypted",
                "The zip is locked with a password.",
                "Unpack it with its password and hand in the folder.",
                Where(label),
            )

        def opener(info: zipfile.ZipInfo = info) -> BinaryIO:
            return cast(BinaryIO, archive.open(info))

        yield Part(info.filename, info.file_size, label, opener)


def _is_junk(name: str) -> bool:
    return name.startswith(_JUNK[0]) or name.rpartition("/")[2] in _JUNK[1:]
