"""Zips, tars and gzipped files, recognised by their first bytes and opened as parts; archives within archives too.

An archive is hostile: names are never used as paths, links and devices are passed over, and what would fill
the disk or the memory is refused before or while it is unpacked.
"""

from __future__ import annotations

import gzip
import struct
import tarfile
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from typing import BinaryIO, cast

from newburrow.core.problem import BurrowError, refusal
from newburrow.intake.part import Part
from newburrow.model.record import Where

MOST_FILES = 300_000  # in one zip; its list alone takes half a gigabyte of memory beyond that
_BOMB_SIZE = 64 * 1024 * 1024
_BOMB_RATIO = 500  # deflate reaches 1,032 at best, real text about 10
_JUNK = ("__MACOSX/", ".DS_Store", "Thumbs.db", "desktop.ini")
_TAR_MARK = slice(257, 262)
# office files, books, programs
_DOCUMENTS = {
    "[Content_Types].xml",
    "mimetype",
    "META-INF/MANIFEST.MF",
}
_BROKEN = (
    zipfile.BadZipFile,
    tarfile.TarError,
    zlib.error,
    EOFError,
    OSError,
    NotImplementedError,
    struct.error,
)


class _SharedFile:
    """A file that stays open for as long as anything that is in it can be opened."""

    def __init__(self, file: BinaryIO) -> None:
        self.file = file

    def __enter__(self) -> _SharedFile:
        return self

    def __exit__(self, kind: object, *_rest: object) -> None:
        """Close at once where the archive is refused; else stay open for what was found in it."""
        if kind is not None and kind is not GeneratorExit:
            self.file.close()

    def __del__(self) -> None:
        self.file.close()


def kind_of(start: bytes) -> str:
    """`zip`, `gzip` or `tar` by the first bytes (at least 512 for a tar); empty for anything else."""
    if start[:4] in (b"PK\3\4", b"PK\5\6"):
        return "zip"
    if start[:2] == b"\x1f\x8b":
        return "gzip"
    if start[_TAR_MARK] == b"ustar":
        return "tar"
    return ""


def unpacked(part: Part, kind: str) -> Iterator[Part]:
    """The files in an archive (zip or tar, also compressed), in its own order.

    Nothing is written to disk. Raises BurrowError if the archive is damaged or locked, if it expands to
    more than the limits on size, ratio and number of files allow, or if a path leads out of it.
    """
    try:
        if kind == "zip":
            yield from _in_zip(part)
        elif kind == "tar":
            yield from _in_tar(part)
        else:
            yield from _in_gzip(part)
    except _BROKEN as error:
        raise _damaged(kind, error, part.label) from None


def is_junk(name: str) -> bool:
    """Whether a file is one that operating systems add by themselves."""
    return name.startswith(_JUNK[0]) or name.rpartition("/")[2] in _JUNK[1:]


def _damaged(kind: str, error: Exception, label: str) -> BurrowError:
    words = str(error).rstrip(".").lower() or "it ends too early"
    return refusal(
        "damaged",
        f"The {kind} is damaged: {words}.",
        "Download the export again; if it came in several downloads, all of them are needed.",
        Where(label),
    )


def _bomb(label: str, size: int, packed: int) -> BurrowError:
    return refusal(
        "zip-bomb",
        f"The file unpacks to {size:,} bytes or more, {size // max(packed, 1):,} times its size.",
        "No real export does that. If you trust it, unpack it yourself and hand in the folder.",
        Where(label),
    )


def _in_zip(part: Part) -> Iterator[Part]:
    shared_file = _SharedFile(part.seekable())
    with shared_file:
        listed = _listed(shared_file.file)
        if listed > MOST_FILES:
            raise refusal(
                "many-files",
                f"The zip lists {listed:,} files; at most {MOST_FILES:,} are opened.",
                "Unpack it yourself and hand in the folder.",
                Where(part.label),
            )
        archive = zipfile.ZipFile(shared_file.file)
        seen: dict[str, int] = {}
        for info in sorted(archive.infolist(), key=lambda i: i.filename):
            if info.is_dir() or is_junk(info.filename):
                continue
            label = f"{info.filename} in {part.label}"
            if info.file_size > _BOMB_SIZE and info.file_size > _BOMB_RATIO * max(
                info.compress_size, 1
            ):
                raise _bomb(label, info.file_size, info.compress_size)
            if info.flag_bits & 1:
                raise refusal(
                    "encrypted",
                    "The zip is locked with a password.",
                    "Unpack it with its password and hand in the folder.",
                    Where(label),
                )

            def opener(
                info: zipfile.ZipInfo = info, _held: _SharedFile = shared_file
            ) -> BinaryIO:
                return cast(BinaryIO, archive.open(info))

            yield Part(_once(info.filename, seen), info.file_size, label, opener)


def _listed(stream: BinaryIO) -> int:
    """How many files a zip says it lists (APPNOTE 4.3.16), without reading the list."""
    stream.seek(0, 2)
    tail_size = min(stream.tell(), 65_557 + 20)
    stream.seek(-tail_size, 2)
    tail = stream.read(tail_size)
    end = tail.rfind(b"PK\5\6")
    if end < 0 or len(tail) < end + 12:
        return 0
    count = struct.unpack_from("<H", tail, end + 10)[0]
    # zip64: a locator comes before
    if count == 0xFFFF and tail[end - 20 : end - 16] == b"PK\6\7":
        stream.seek(struct.unpack_from("<Q", tail, end - 12)[0])
        record = stream.read(56)
        if record[:4] == b"PK\6\6":
            count = struct.unpack_from("<Q", record, 32)[0]
    return int(count)


def _once(name: str, seen: dict[str, int]) -> str:
    """A name that stands for one file: a second of the same name gets a number."""
    seen[name] = seen.get(name, 0) + 1
    if seen[name] == 1:
        return name
    return f"{name} ({seen[name]})"


def _in_tar(part: Part) -> Iterator[Part]:
    shared_file = _SharedFile(part.seekable())
    with shared_file:
        archive = tarfile.TarFile(fileobj=shared_file.file)
        seen: dict[str, int] = {}
        members = []
        for member in archive:
            if member.isfile() and not is_junk(member.name):
                members.append(member)
            if len(members) > MOST_FILES:
                raise refusal(
                    "many-files",
                    f"The tar holds more than {MOST_FILES:,} files.",
                    "Unpack it yourself and hand in the folder.",
                    Where(part.label),
                )
        for member in sorted(members, key=lambda m: m.name):

            def opener(
                member: tarfile.TarInfo = member, _held: _SharedFile = shared_file
            ) -> BinaryIO:
                return cast(BinaryIO, archive.extractfile(member))

            yield Part(
                _once(member.name.removeprefix("./"), seen),
                member.size,
                f"{member.name} in {part.label}",
                opener,
            )


def _in_gzip(part: Part) -> Iterator[Part]:
    """What is in a gzipped file: the files of a tar, or the one file."""
    shared_file = _SharedFile(cast(BinaryIO, tempfile.TemporaryFile()))  # noqa: SIM115 (`_SharedFile` closes it)
    size = 0
    with part.open() as packed, gzip.open(packed) as stream:
        while block := stream.read(1 << 18):
            size += len(block)
            if size > _BOMB_SIZE and size > _BOMB_RATIO * max(part.size, 1):
                raise _bomb(part.label, size, part.size)
            shared_file.file.write(block)
    name = part.name.removesuffix(".gz").removesuffix(".tgz")
    inner = Part(name, size, part.label, lambda: cast(BinaryIO, _FileView(shared_file)))
    shared_file.file.seek(0)
    if kind_of(shared_file.file.read(512)) == "tar":
        yield from _in_tar(inner)
    else:
        yield inner


class _FileView:
    """Reads a file that is held open from a place of its own: reading one view does not move another."""

    def __init__(self, shared_file: _SharedFile) -> None:
        self._held, self._place = shared_file, 0

    def read(self, size: int = -1) -> bytes:
        self._held.file.seek(self._place)
        data = self._held.file.read(size)
        self._place += len(data)
        return data

    def close(self) -> None:
        """The file itself stays open."""


def is_document(parts: list[Part]) -> bool:
    """Whether a zip is a document or a program rather than a bundle of files."""
    return any(part.name in _DOCUMENTS for part in parts)
