"""The names of files in a zip as their writer meant them (APPNOTE 6.3.10, appendix D)."""

from __future__ import annotations

import struct
import zipfile
import zlib
from collections.abc import Sequence

_UTF_8 = 0x800  # the flag of a name in UTF-8
_UNICODE_PATH = 0x7075  # the extra field with the name in UTF-8 (4.6.9)
_SHOWN = 4000  # bytes of names that are enough to guess by
_DOS = "cp437"


def names(infos: Sequence[zipfile.ZipInfo]) -> list[str]:
    """The name of each file, in order, with forward slashes.

    A name without the flag for UTF-8 is in that of the extra field, in UTF-8 all the same, or in the encoding of
    the machine that wrote it, which is guessed by all such names together; else it is in cp437, as the standard
    says. Backslashes part folders where the writer was a machine with DOS or Windows.
    """
    raw = [_raw(info) for info in infos]
    unknown = [name for name in raw if name is not None and not _is(name, "utf-8")]
    encoding = _guessed(unknown)
    made = []
    for info, name in zip(infos, raw, strict=True):
        text = _of_extra_field(info) or info.filename
        if name is not None and text == info.filename:
            text = name.decode("utf-8" if _is(name, "utf-8") else encoding, "replace")
        if info.create_system == 0 and "/" not in text:
            text = text.replace("\\", "/")
        made.append(text)
    return made


def _raw(info: zipfile.ZipInfo) -> bytes | None:
    """The bytes of a name of which the zip does not say the encoding; None where it does, or it does not matter."""
    if info.flag_bits & _UTF_8 or info.orig_filename.isascii():
        return None
    try:
        return info.filename.encode(_DOS)
    except UnicodeEncodeError:
        return None


def _is(name: bytes, encoding: str) -> bool:
    try:
        name.decode(encoding)
    except UnicodeDecodeError:
        return False
    return True


def _guessed(unknown: Sequence[bytes]) -> str:
    """The encoding of names, as far as they show it."""
    if not unknown:
        return _DOS
    import chardet  # heavy: imported where it is used

    # the least sure guess is still better than one in which letters are signs
    encoding = chardet.detect(b"\n".join(unknown)[:_SHOWN])["encoding"]
    if not encoding or not all(_is(name, encoding) for name in unknown):
        return _DOS
    if _signs(unknown, encoding) < _signs(unknown, _DOS):
        return encoding
    return _DOS


def _signs(names: Sequence[bytes], encoding: str) -> int:
    """How many characters beyond ASCII are no letters: in names there are few."""
    text = b"".join(names).decode(encoding)
    return sum(letter > "\x7f" and not letter.isalpha() for letter in text)


def _of_extra_field(info: zipfile.ZipInfo) -> str:
    """The name in the extra field for one in UTF-8, if that belongs to the name as it is now."""
    extra = info.extra
    while len(extra) >= 4:
        kind, size = struct.unpack_from("<HH", extra)
        field, extra = extra[4 : 4 + size], extra[4 + size :]
        if kind != _UNICODE_PATH or len(field) < 6 or field[0] != 1:
            continue
        (checksum,) = struct.unpack_from("<I", field, 1)
        encoding = "utf-8" if info.flag_bits & _UTF_8 else _DOS
        if checksum == zlib.crc32(info.orig_filename.encode(encoding, "replace")):
            return field[5:].decode("utf-8", "replace")
    return ""
