"""What the new host imports, packed into zips: each below the host's limit on one upload, files beside their page."""

from __future__ import annotations

import shutil
import zipfile
import zlib
from collections.abc import Iterator, Sequence
from typing import BinaryIO

from newburrow.write.staging import Staging

_TEXTS = (".html", ".creole", ".md", ".jsonl", ".json", ".xml", ".csv", ".txt", ".svg")
_MOMENT = (1980, 1, 1, 0, 0, 0)  # of every file: no clock may show in what is written
_BLOCK = 1 << 18
_OF_ENTRY = 30 + 46 + 64  # bytes that a zip has for each file beside its name and content
_OF_END = 22 + 76  # and at its end


def pack(staging: Staging, name: str, limit: int) -> list[str]:
    """Pack all that was written into zips below `new/`; gives their names.

    With one part this has the name `name`, with more they are numbered: `-1`, `-2`, ... `limit` is in bytes, 0
    for none. A file that is larger than the limit is alone in a part, which is too large.
    """
    files = sorted(staging.names(), key=_place)
    parts = list(_parted(staging, files, limit))
    stem, dot, extension = name.rpartition(".")
    written = []
    for number, part in enumerate(parts, 1):
        if len(parts) == 1:
            of_part = name
        else:
            of_part = f"{stem}-{number}{dot}{extension}"
        with staging.folder.open(f"new/{of_part}") as stream:
            _write(staging, part, stream)
        written.append(of_part)
    staging.remove()
    return written


def _place(name: str) -> tuple[int, str, str]:
    """The order of files: what is about the whole site first, then each page with its files behind it."""
    top, slash, inner = name.partition("/")
    if not slash:
        return 0, name, ""
    stem = inner.rpartition(".")[0] if inner.endswith(_TEXTS) else inner
    return 1, stem, top


def _parted(staging: Staging, files: Sequence[str], limit: int) -> Iterator[list[str]]:
    """The files of each part, in their order."""
    part, size = list[str](), _OF_END
    for file in files:
        own = _size(staging, file, limit - size if limit else 0)
        if part and limit and size + own > limit:
            yield part
            part, size = [], _OF_END
            own = _size(staging, file, limit - size)
        part.append(file)
        size += own
    if part:
        yield part


def _size(staging: Staging, file: str, room: int) -> int:
    """Bytes of a file in a zip. Without compressing it where it fits in any case."""
    beside = _OF_ENTRY + 2 * len(file.encode("utf-8", "surrogateescape"))
    whole = staging.size(file) + beside
    if not file.endswith(_TEXTS) or whole <= room // 2 or not room:
        return whole
    packer, packed = zlib.compressobj(6, zlib.DEFLATED, -15), 0
    with staging.read(file) as stream:
        while block := stream.read(_BLOCK):
            packed += len(packer.compress(block))
    return packed + len(packer.flush()) + beside


def _write(staging: Staging, files: Sequence[str], stream: BinaryIO) -> None:
    with zipfile.ZipFile(stream, "w") as archive:
        for file in files:
            info = zipfile.ZipInfo(file, _MOMENT)
            info.compress_type = (
                zipfile.ZIP_DEFLATED if file.endswith(_TEXTS) else zipfile.ZIP_STORED
            )
            info.external_attr = 0o644 << 16
            info.file_size = staging.size(file)
            with staging.read(file) as source, archive.open(info, "w") as target:
                shutil.copyfileobj(source, target, _BLOCK)
