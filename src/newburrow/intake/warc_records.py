"""The records of a web archive (WARC, ISO 28500:2017): where each lies, and what its own headers say."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator, Sequence
from typing import BinaryIO, cast

from msgspec import Struct
from msgspec.structs import replace

START = re.compile(rb"WARC/1\.\d+\r?\n")
DAMAGED = b"\r\n\r\n(damaged)\r\n\r\n"  # stands where a record could not be unpacked
_BLOCK = 1 << 18
_LONGEST_HEADERS = 64 * 1024
_NEXT = b"\r\n\r\nWARC/1."
_LENGTH = re.compile(rb"^Content-Length:[^\r\n]*", re.IGNORECASE | re.MULTILINE)
# The library takes a scheme for that of HTTP in small letters alone; its case does not count (RFC 3986 section 3.1).
_SCHEME = re.compile(rb"^(WARC-Target-URI:[ \t]*<?)(HTTPS?):", re.IGNORECASE | re.MULTILINE)
_REPEATED = "warc-concurrent-to"  # the one field that may stand several times


class WarcRecord(Struct, frozen=True):
    """One record. Places are offsets in bytes."""

    offset: int
    begin: int  # of its block, behind its headers
    end: int  # of its block
    kind: str = ""  # WARC-Type, in small letters
    identity: str = ""  # WARC-Record-ID
    address: str = ""  # WARC-Target-URI
    date: str = ""
    digest: str = ""  # of the payload
    profile: str = ""  # of a revisit: in what it is the same (section 6.7)
    refers_to: str = ""  # address of the record that a revisit repeats
    refers_to_id: str = ""  # its identity
    concurrent: tuple[str, ...] = ()  # identities of the records of the same exchange
    method: str = ""  # of a request
    segment: int = 0  # WARC-Segment-Number: its place among the pieces of a record, from 1; 0 for a whole one
    origin: str = ""  # of a continuation: identity of the first piece
    total: int = 0  # of the last piece: bytes of all blocks together; 0 where it does not say
    damage: str = ""  # why it cannot be read; completes "it ..."
    truncated: str = ""  # why only its beginning is there (section 5.13)
    further: tuple[tuple[int, int], ...] = ()  # begin and end of the blocks that continue it

    @property
    def blocks(self) -> tuple[tuple[int, int], ...]:
        """Begin and end of all its blocks."""
        return ((self.begin, self.end), *self.further)

    @property
    def size(self) -> int:
        """Bytes of all its blocks."""
        return sum(end - begin for begin, end in self.blocks)


def records(file: BinaryIO) -> Iterator[WarcRecord]:
    """All records in their order (section 5); those that are damaged say so."""
    file.seek(0, 2)
    size, offset = file.tell(), 0
    while offset < size:
        file.seek(offset)
        head = file.read(_LONGEST_HEADERS)
        start = re.search(rb"\S", head)
        if start is None:
            offset += len(head)
            continue
        offset += start.start()
        head = head[start.start() :]
        headers_end = re.search(rb"\r?\n\r?\n", head)
        if not START.match(head) or headers_end is None:
            after = _next_record(file, offset + 1, size)
            damage = "is damaged: no record begins where one should"
            yield WarcRecord(offset, offset, after, damage=damage)
            offset = after
            continue
        begin = offset + headers_end.end()
        record = _record(file, offset, begin, _headers(head[: headers_end.start()]), size)
        yield record
        offset = max(record.end, begin)


def _record(
    file: BinaryIO, offset: int, begin: int, headers: dict[str, str], size: int
) -> WarcRecord:
    end, damage = _end(file, begin, headers.get("content-length", ""), size)
    kind = headers.get("warc-type", "").lower()
    return WarcRecord(
        offset,
        begin,
        end,
        kind,
        headers.get("warc-record-id", ""),
        headers.get("warc-target-uri", "").strip("<>"),
        headers.get("warc-date", ""),
        headers.get("warc-payload-digest", ""),
        headers.get("warc-profile", ""),
        headers.get("warc-refers-to-target-uri", "").strip("<>"),
        headers.get("warc-refers-to", ""),
        tuple(headers.get(_REPEATED, "").split()),
        _method(file, begin) if kind == "request" else "",
        _count(headers.get("warc-segment-number", "")),
        headers.get("warc-segment-origin-id", ""),
        _count(headers.get("warc-segment-total-length", "")),
        damage,
        headers.get("warc-truncated", ""),
    )


def _count(text: str) -> int:
    if text.isdecimal() and len(text) < 20:
        return int(text)
    return 0


def _method(file: BinaryIO, begin: int) -> str:
    """The method of a request (RFC 9112 section 3.1), in capitals."""
    file.seek(begin)
    return file.read(32).partition(b" ")[0].decode("ascii", "replace").upper()


def _end(file: BinaryIO, begin: int, length: str, size: int) -> tuple[int, str]:
    """Where the block of a record ends, and what is wrong if it does not end where it says."""
    if not length.isdigit():
        return _next_record(file, begin, size), "is damaged: it does not say how long it is"
    end = begin + int(length)
    if end > size:
        after = _next_record(file, begin, size)
        if after < size:
            return after, "is damaged: it says that it is longer than it is"
        return size, "is cut off"
    file.seek(end)
    rest = file.read(32).lstrip(b"\r\n")
    if not rest or rest.startswith((b"WARC/1.", DAMAGED.strip())):
        return end, ""
    return _next_record(file, begin, size), "is damaged: its length is wrong"


def _next_record(file: BinaryIO, offset: int, size: int) -> int:
    """Where the next record begins, looked for by its mark."""
    before, place = b"", offset
    file.seek(offset)
    while block := file.read(_BLOCK):
        found = (before + block).find(_NEXT)
        if found >= 0:
            return place - len(before) + found + 4
        before, place = block[1 - len(_NEXT) :], place + len(block)
    return size


def _headers(head: bytes) -> dict[str, str]:
    """The named fields of a record, in small letters; a line that begins with a space goes on with the one before."""
    text = re.sub(r"\r?\n[ \t]+", " ", head.decode("utf-8", "replace"))
    found: dict[str, str] = {}
    for line in text.splitlines()[1:]:
        name, _colon, value = line.partition(":")
        name, value = name.strip().lower(), value.strip()
        if name == _REPEATED and name in found:
            value = f"{found[name]} {value}"
        found[name] = value
    return found


def joined(first: WarcRecord, others: Sequence[WarcRecord]) -> WarcRecord:
    """A record of which the others are further pieces (`continuation`, section 6.8), in one.

    Where pieces are missing it ends before them, and says so.
    """
    if not first.segment:
        return first
    further, total = [], 0
    for number, piece in enumerate(sorted(others, key=lambda piece: piece.segment), 2):
        if piece.segment != number:
            break
        further.append((piece.begin, piece.end))
        total = piece.total
    whole = replace(first, further=tuple(further))
    if whole.size == total:
        return whole
    return replace(whole, truncated="pieces of it are missing")


def stream_of(file: BinaryIO, record: WarcRecord) -> BinaryIO:
    """The bytes of a record from its first header to its end; one of several pieces as if it were whole."""
    file.seek(record.offset)
    head = file.read(record.begin - record.offset)
    head = _SCHEME.sub(lambda found: found[1] + found[2].lower() + b":", head, count=1)
    if record.further:
        head = _LENGTH.sub(b"Content-Length: %d" % record.size, head, count=1)
    return cast(BinaryIO, _Blocks(file, head, record.blocks))


class _Blocks(io.RawIOBase):
    """Headers, and blocks of a file behind one another, read from a place of their own."""

    def __init__(self, file: BinaryIO, head: bytes, blocks: Sequence[tuple[int, int]]) -> None:
        self._file, self._head, self._blocks = file, head, list(blocks)
        self._read = 0  # bytes

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(cast(bytearray, buffer))
        data = self._next(len(view))
        view[: len(data)] = data
        self._read += len(data)
        return len(data)

    def _next(self, most: int) -> bytes:
        if self._head:
            data, self._head = self._head[:most], self._head[most:]
            return data
        while self._blocks:
            begin, end = self._blocks[0]
            if begin >= end:
                del self._blocks[0]
                continue
            self._file.seek(begin)
            data = self._file.read(min(most, end - begin))
            self._blocks[0] = (begin + len(data), end)
            if data:
                return data
            del self._blocks[0]
        return b""

    def tell(self) -> int:
        """Bytes read so far."""
        return self._read
