"""What a zip lists (APPNOTE 6.3), in order of the names."""

from __future__ import annotations

import struct
import zipfile
from collections.abc import Iterator
from typing import BinaryIO, cast

from newburrow.intake import zip_names
from newburrow.intake.archive_member import ArchiveMember, LockedMember
from newburrow.intake.held_file import HeldFile

_BLOCK = 1 << 20
_ENTRY_MARK = b"PK\1\2"


def members(held: HeldFile) -> Iterator[ArchiveMember]:
    """The files of a zip; the opener of one raises LockedMember where a password is needed.

    Raises zipfile.BadZipFile and other errors of that module where the list is damaged.
    """
    archive = zipfile.ZipFile(held.file)
    infos = [info for info in archive.infolist() if not info.is_dir()]
    pairs = zip(zip_names.names(infos), infos, strict=True)
    for name, info in sorted(pairs, key=lambda pair: pair[0]):

        def opener(info: zipfile.ZipInfo = info, _held: HeldFile = held) -> BinaryIO:
            if info.flag_bits & 1:
                raise LockedMember
            return cast(BinaryIO, archive.open(info))

        yield ArchiveMember(name, info.file_size, opener)


def listed(stream: BinaryIO) -> int:
    """How many files a zip lists (APPNOTE 4.3.12 and 4.3.16): what it says or what it holds, whichever is more.

    Reading the list itself would take half a gigabyte of memory for a million files.
    """
    stream.seek(0, 2)
    size = stream.tell()
    tail_size = min(size, 65_557 + 76)
    stream.seek(size - tail_size)
    tail = stream.read(tail_size)
    end = tail.rfind(b"PK\5\6")
    if end < 0 or len(tail) < end + 20:
        return 0
    count, list_size = struct.unpack_from("<HI", tail, end + 10)
    start = size - tail_size + end - list_size
    # zip64: a locator comes before
    if end >= 20 and tail[end - 20 : end - 16] == b"PK\6\7":
        stream.seek(struct.unpack_from("<Q", tail, end - 12)[0])
        record = stream.read(56)
        if record[:4] == b"PK\6\6" and len(record) == 56:
            count, list_size, start = struct.unpack_from("<32xQQQ", record)
    return max(int(count), _marks(stream, start, list_size))


def _marks(stream: BinaryIO, start: int, size: int) -> int:
    """How often the mark of a listed file stands in a range of bytes."""
    if start < 0:
        return 0
    stream.seek(start)
    count, before = 0, b""
    while size > 0 and (block := stream.read(min(_BLOCK, size))):
        size -= len(block)
        count += (before + block).count(_ENTRY_MARK)
        before = block[1 - len(_ENTRY_MARK) :]
    return count
