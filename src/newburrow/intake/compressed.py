"""A file compressed by itself: gzip (RFC 1952), bzip2 and xz; mostly there is a tar in it."""

from __future__ import annotations

import bz2
import gzip
import lzma
from typing import BinaryIO, cast

_MARKS = {"gzip": b"\x1f\x8b", "bzip2": b"BZh", "xz": b"\xfd7zXZ\0"}
KINDS = tuple(_MARKS)
_ENDINGS = ((".tgz", ".tar"), (".tbz2", ".tar"), (".txz", ".tar"), (".gz", ""), (".bz2", ""), (".xz", ""))  # fmt: skip


def kind_of(start: bytes) -> str:
    """`gzip`, `bzip2` or `xz` by the first bytes of a file; empty for anything else."""
    return next((kind for kind, mark in _MARKS.items() if start.startswith(mark)), "")


def unpacking(kind: str, packed: BinaryIO) -> BinaryIO:
    """The bytes in a compressed file. Reading a damaged one raises OSError, EOFError, zlib.error or lzma.LZMAError."""
    if kind == "gzip":
        return cast(BinaryIO, gzip.GzipFile(fileobj=packed))
    if kind == "bzip2":
        return cast(BinaryIO, bz2.BZ2File(packed))
    return cast(BinaryIO, lzma.LZMAFile(packed))


def unpacked_name(name: str) -> str:
    """The name of what is in a compressed file of this name."""
    for ending, instead in _ENDINGS:
        if name.lower().endswith(ending):
            return name[: -len(ending)] + instead
    return name
