"""A web archive (WARC, ISO 28500:2017, versions 1.0 and 1.1): what each address last answered.

Of each address the latest good answer is a file. A `revisit` record (section 6.7) stands for the answer that it
repeats. Redirects, and addresses that are gone, are no files: they are told beside them. A record with a wrong
length, or one that is cut off, is left out and named; what is whole before and after it is read.
"""

from __future__ import annotations

import gzip
import logging
import re
import zlib
from collections.abc import Callable, Iterator
from typing import BinaryIO, cast
from urllib.parse import unquote

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import url
from newburrow.intake.archive_member import ArchiveMember
from newburrow.intake.held_file import HeldFile
from newburrow.intake.web_answer import WebAnswer

_BLOCK = 1 << 18
_LONGEST_HEADERS = 64 * 1024
_START = re.compile(rb"WARC/1\.\d+\r?\n")
_NEXT = b"\r\n\r\nWARC/1."
_DAMAGED = b"\r\n\r\n(damaged)\r\n\r\n"  # what `members` takes for a damaged record
_GZIP = b"\x1f\x8b\x08"
_OF_SITES = re.compile(r"(?:https?|ftp|file):", re.IGNORECASE)  # all others are about the crawl
_REDIRECTS, _GONE = (301, 302, 303, 307, 308), (404, 410)
_CHARSET = re.compile(r""";\s*charset\s*=\s*["']?([A-Za-z0-9._:+-]+)""", re.IGNORECASE)
_PARTS = {"text/html": ".html", "application/xhtml+xml": ".html"}


class _Record(Struct, frozen=True):
    """Where one record is, and what its own headers say."""

    offset: int
    end: int
    kind: str  # WARC-Type
    address: str  # WARC-Target-URI
    date: str
    digest: str  # of the payload
    refers_to: str  # address of the record that a revisit repeats
    damage: str = ""  # why it cannot be read; completes "it ..."
    truncated: str = ""  # why the crawler kept only its beginning (section 5.13)


class _Answer(Struct, frozen=True):
    """An answer of HTTP."""

    record: _Record
    status: int
    location: str
    media_type: str
    charset: str = ""  # named with the media type


def is_warc(start: bytes) -> bool:
    """Whether a file begins as a web archive, not compressed."""
    return _START.match(start) is not None


def is_packed_warc(stream: BinaryIO) -> bool:
    """Whether a gzip holds a web archive."""
    try:
        with gzip.GzipFile(fileobj=stream) as unpacked:
            return is_warc(unpacked.read(64))
    except (OSError, EOFError, zlib.error):
        return False


def unpack(packed: BinaryIO, target: BinaryIO, meter: Callable[[int], None]) -> None:
    """Unpack a gzip of a web archive, in which each record is a member of its own (annex D).

    Where a member is damaged a mark stands in its place, and what follows it is unpacked all the same.
    `meter` is called with the bytes written so far.
    """
    size, left, begun = 0, b"", False
    member = zlib.decompressobj(31)
    while block := left or packed.read(_BLOCK):
        left, begun = b"", True
        try:
            data = member.decompress(block)
            size += len(data)
            meter(size)
            target.write(data)
        except zlib.error:
            after = block.find(_GZIP, 1)
            while after < 0 and (more := packed.read(_BLOCK)):
                block = block[-2:] + more
                after = block.find(_GZIP, 1)
            target.write(_DAMAGED)
            left, member = block[after:] if after >= 0 else b"", zlib.decompressobj(31)
            if not left:
                break
            continue
        if member.eof:
            left, member, begun = (
                member.unused_data.lstrip(b"\0"),
                zlib.decompressobj(31),
                False,
            )
    if begun:  # the last member has no end
        target.write(member.flush() or _DAMAGED)


def members(
    held: HeldFile, count: Callable[[], None]
) -> tuple[list[ArchiveMember], list[WebAnswer]]:
    """The files of a web archive, in the order of their names, and what other addresses answered.

    `held` has the archive, not compressed. `count` is called for each record that is an answer.
    """
    best: dict[str, _Answer] = {}  # by address
    others: dict[str, WebAnswer] = {}
    by_digest: dict[str, _Record] = {}
    left_out: list[ArchiveMember] = []
    repeating: list[
        _Record
    ] = []  # they may repeat an answer that comes later, in another file of a crawl
    for record in _records(held.file):
        if record.damage:
            count()
            left_out.append(_not_read(record, record.damage))
            continue
        if record.kind not in ("response", "resource", "revisit"):
            continue
        count()
        if not _OF_SITES.match(record.address):
            why = "is about the archive, not an answer of a site"
            left_out.append(_not_read(record, why if record.address else "has no address"))
            continue
        if record.kind == "revisit":
            repeating.append(record)
            continue
        answer = _answer(held.file, record)
        if answer is None:
            left_out.append(_not_read(record, "is not an answer of HTTP"))
            continue
        if record.digest:
            by_digest.setdefault(record.digest, record)
        _note(answer, best, others, left_out)
    for revisit in repeating:
        original = _original(revisit, by_digest, best)
        answer = _answer(held.file, original) if original else None
        if answer is None:
            why = "repeats an answer that is not in the archive; put all files of a crawl into one folder"
            left_out.append(_not_read(revisit, why))
        else:
            _note(answer, best, others, left_out)
    found = sorted(_named(best), key=lambda pair: pair[0])
    made = [
        ArchiveMember(
            name, -1, _opener(held, answer.record), answer.record.address, answer.charset
        )
        for name, answer in found
    ]
    left_out += [_cut_off(answer.record) for _name, answer in found if answer.record.truncated]
    answers = [answer for key, answer in others.items() if key not in best]
    return [*made, *left_out], answers


def _note(
    answer: _Answer,
    best: dict[str, _Answer],
    others: dict[str, WebAnswer],
    left_out: list[ArchiveMember],
) -> None:
    """Keep an answer if it is the latest of its address."""
    record, key = answer.record, url.key(answer.record.address) or answer.record.address
    if answer.status == 200:
        earlier = best.get(key)
        if earlier and earlier.record.date > record.date:
            answer, earlier = earlier, answer
        if earlier:
            left_out.append(
                _not_read(earlier.record, "is an older answer of an address that is read")
            )
        best[key] = answer
        return
    left_out.append(_not_read(record, f"is an answer with the status {answer.status}"))
    known = others.get(key)
    if known is None or known.date <= record.date:
        target = ""
        if answer.status in _REDIRECTS and answer.location:
            target = url.resolve(record.address, answer.location)
        if target or answer.status in _GONE:
            others[key] = WebAnswer(record.address, answer.status, target, record.date)


def _original(
    revisit: _Record, by_digest: dict[str, _Record], best: dict[str, _Answer]
) -> _Record | None:
    """The record that a revisit stands for, with the address and the date of the revisit; None if there is none."""
    found = by_digest.get(revisit.digest) if revisit.digest else None
    if found is None and revisit.refers_to:
        answer = best.get(url.key(revisit.refers_to) or revisit.refers_to)
        found = answer.record if answer else None
    if found is None:
        return None
    return replace(found, address=revisit.address, date=revisit.date)


def _not_read(record: _Record, why: str) -> ArchiveMember:
    name = record.address or f"record at byte {record.offset:,}"
    return ArchiveMember(name, 0, _nothing, record.address, not_read=why)


def _cut_off(record: _Record) -> ArchiveMember:
    why = f"was cut off by the crawler ({record.truncated}); the beginning of the page is read"
    return ArchiveMember(f"the end of {record.address}", 0, _nothing, not_read=why)


def _nothing() -> BinaryIO:
    raise OSError("it is not read")


def _named(best: dict[str, _Answer]) -> Iterator[tuple[str, _Answer]]:
    """Each answer with a name that is the path of its address, below its host."""
    for answer in best.values():
        parts = url.split(answer.record.address)
        host, path = (
            (parts.netloc, unquote(parts.path)) if parts else ("", answer.record.address)
        )
        if path.endswith("/") or not path:
            path += "index.html"
        elif "." not in path.rpartition("/")[2]:
            path += _PARTS.get(answer.media_type, "")
        if parts and parts.query:
            stem, dot, extension = path.rpartition(".")
            path = f"{stem}@{parts.query}{dot}{extension}" if stem else f"{path}@{parts.query}"
        yield f"{host}/{path.lstrip('/')}", answer


def _opener(held: HeldFile, record: _Record) -> Callable[[], BinaryIO]:
    def opener() -> BinaryIO:
        return _payload(held.file, record)

    return opener


# -- records ---------------------------------------------------------------------------------------


def _records(file: BinaryIO) -> Iterator[_Record]:
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
        if not _START.match(head) or headers_end is None:
            after = _next_record(file, offset + 1, size)
            yield _Record(
                offset,
                after,
                "",
                "",
                "",
                "",
                "",
                "is damaged: no record begins where one should",
            )
            offset = after
            continue
        headers = _headers(head[: headers_end.start()])
        begin = offset + headers_end.end()
        end, damage = _end(file, begin, headers.get("content-length", ""), size)
        yield _Record(
            offset,
            end,
            headers.get("warc-type", "").lower(),
            headers.get("warc-target-uri", "").strip("<>"),
            headers.get("warc-date", ""),
            headers.get("warc-payload-digest", ""),
            headers.get("warc-refers-to-target-uri", "").strip("<>"),
            damage,
            headers.get("warc-truncated", ""),
        )
        offset = max(end, begin)


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
    if not rest or rest.startswith((b"WARC/1.", _DAMAGED.strip())):
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
    pairs = (line.partition(":") for line in text.splitlines()[1:])
    return {name.strip().lower(): value.strip() for name, _colon, value in pairs}


def _answer(file: BinaryIO, record: _Record) -> _Answer | None:
    """The answer in a record; None for one that is none of HTTP."""
    if record.kind == "resource":
        return _Answer(record, 200, "", "")
    parsed = _parsed(file, record)
    if parsed is None or parsed.http_headers is None:
        return None
    status = parsed.http_headers.get_statuscode()
    if not str(status).isdigit():
        return None
    content_type = parsed.http_headers.get_header("Content-Type") or ""
    media_type, charset = content_type.partition(";")[0], _CHARSET.search(content_type)
    location = parsed.http_headers.get_header("Location") or ""
    return _Answer(
        record,
        int(status),
        location.strip(),
        media_type.strip().lower(),
        charset[1] if charset else "",
    )


def _parsed(file: BinaryIO, record: _Record):  # type: ignore[no-untyped-def]
    """A record as the library reads it; None where it cannot."""
    from warcio.archiveiterator import ArchiveIterator  # heavy: imported where it is used
    from warcio.exceptions import ArchiveLoadFailed

    # It warns of each address with a space, which is read all the same.
    logging.getLogger("warcio").setLevel(logging.ERROR)
    try:
        return next(iter(ArchiveIterator(_Slice(file, record.offset, record.end))), None)
    except (ArchiveLoadFailed, EOFError, ValueError, OSError, AttributeError):
        return (
            None  # the library trips over a record without an address (an AttributeError) too
        )


def _payload(file: BinaryIO, record: _Record) -> BinaryIO:
    """The bytes that the address answered, without the encodings of the transfer (RFC 9110 section 8.4)."""
    parsed = _parsed(file, record)
    if parsed is None:
        raise OSError("the record cannot be read")
    return cast(BinaryIO, parsed.content_stream())


class _Slice:
    """A part of a file that is read from a place of its own."""

    def __init__(self, file: BinaryIO, place: int, end: int) -> None:
        self._file, self._place, self._end = file, place, end

    def read(self, size: int = -1) -> bytes:
        """At most so many bytes; all that are left if negative."""
        left = self._end - self._place
        self._file.seek(self._place)
        data = self._file.read(left if size < 0 else min(size, left))
        self._place += len(data)
        return data

    def readline(self, size: int = -1) -> bytes:
        """A line of at most so many bytes."""
        left = self._end - self._place
        self._file.seek(self._place)
        data = self._file.readline(left if size < 0 else min(size, left))
        self._place += len(data)
        return data

    def tell(self) -> int:
        """The place."""
        return self._place

    def close(self) -> None:
        """The file itself stays open."""
