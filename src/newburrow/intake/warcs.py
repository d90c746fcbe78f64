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

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import url, web_refresh
from newburrow.intake.archive_member import ArchiveMember
from newburrow.intake.coded_stream import CODINGS, CodedStream
from newburrow.intake.held_file import HeldFile
from newburrow.intake.warc_records import DAMAGED, START, WarcRecord, joined, records, stream_of
from newburrow.intake.web_answer import WebAnswer
from newburrow.intake.web_names import name_of

_BLOCK = 1 << 18
_LOOKED_AT = 1 << 26  # bytes of a payload; a larger page is refused where it is read
_GZIP = b"\x1f\x8b\x08"
_OF_SITES = re.compile(r"(?:https?|ftp|file):", re.IGNORECASE)  # all others are about the crawl
# Kinds of records (section 6) that hold nothing of a site, beside requests.
_OF_CRAWL = ("warcinfo", "metadata")
_OF_ANSWERS = ("response", "resource", "revisit")
_NOT_MODIFIED = "server-not-modified"  # the end of the profile of a revisit (section 6.7.3)
_GOOD, _REDIRECTS, _GONE = (200, 203), (301, 302, 303, 307, 308), (404, 410)
_LED_ON = 302  # stands for the status of an answer that a browser leaves by itself
_CHARSET = re.compile(r""";\s*charset\s*=\s*["']?([A-Za-z0-9._:+-]+)""", re.IGNORECASE)


class _Answer(Struct, frozen=True):
    """An answer of HTTP."""

    record: WarcRecord
    status: int
    leads_to: str
    media_type: str
    charset: str = ""  # named with the media type


def is_warc(start: bytes) -> bool:
    """Whether a file begins as a web archive, not compressed."""
    return START.match(start) is not None


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
            target.write(DAMAGED)
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
        target.write(member.flush() or DAMAGED)


def members(
    held: HeldFile, count: Callable[[], None]
) -> tuple[list[ArchiveMember], list[WebAnswer]]:
    """The files of a web archive, in the order of their names, and what other addresses answered.

    `held` has the archive, not compressed. `count` is called for each record that is an answer.
    """
    best: dict[str, _Answer] = {}  # by address
    others: dict[str, WebAnswer] = {}
    by_digest: dict[str, WarcRecord] = {}
    found = _sorted(held.file, count)
    left_out = found.left_out
    # they may repeat an answer that comes later, in another file of a crawl
    repeating: list[WarcRecord] = []
    for record in found.answers:
        if record.kind == "revisit":
            repeating.append(record)
            continue
        answer = _answer(held.file, record)
        if isinstance(answer, str):
            left_out.append(_not_read(record, answer))
            continue
        if record.digest:
            by_digest.setdefault(record.digest, record)
        _note(answer, best, others, left_out)
    named = {revisit.refers_to_id for revisit in repeating}
    by_identity = {
        record.identity: record for record in found.answers if record.identity in named
    }
    for revisit in repeating:
        original = _original(revisit, by_digest, by_identity, best)
        answer = _answer(held.file, original) if original else ""
        if isinstance(answer, str):
            why = "repeats an answer that is not in the archive; put all files of a crawl into one folder"
            left_out.append(_not_read(revisit, why))
        else:
            _note(answer, best, others, left_out)
    files = sorted(_named(best), key=lambda pair: pair[0])
    made = [
        ArchiveMember(
            name, -1, _opener(held, answer.record), answer.record.address, answer.charset
        )
        for name, answer in files
    ]
    left_out += [_cut_off(answer.record) for _name, answer in files if answer.record.truncated]
    answers = [answer for key, answer in others.items() if key not in best]
    return [*made, *left_out], answers


class _Answers(Struct, frozen=True):
    """The records of an archive."""

    answers: list[WarcRecord]  # what addresses of a site answered, and what repeats that
    left_out: list[ArchiveMember]


def _sorted(file: BinaryIO, count: Callable[[], None]) -> _Answers:
    """The answers of a site in their order, each whole; all others but those about the crawl are left out."""
    found = _Answers([], [])
    pieces: dict[str, list[WarcRecord]] = {}  # by the identity of the first
    not_got: set[str] = set()  # identities of exchanges of another method than GET
    for record in records(file):
        if record.kind == "request" and not record.damage:
            if record.method.isalpha() and record.method != "GET":
                not_got.update((record.identity, *record.concurrent))
            continue
        if record.kind in _OF_CRAWL and not record.damage:
            continue
        count()
        if why := _unread(record):
            found.left_out.append(_not_read(record, why))
        elif record.kind == "continuation":
            pieces.setdefault(record.origin, []).append(record)
        else:
            found.answers.append(record)
    asked_for = list[WarcRecord]()
    for record in found.answers:
        whole = joined(record, pieces.pop(record.identity, ()))
        if not_got.isdisjoint((record.identity, *record.concurrent)):
            asked_for.append(whole)
        else:
            why = "is the answer to a form, or to another request that does not ask for a page"
            found.left_out.append(_not_read(record, why))
    for piece in (piece for of_one in pieces.values() for piece in of_one):
        found.left_out.append(_not_read(piece, "continues a record that is not in the archive"))
    return _Answers(asked_for, found.left_out)


def _unread(record: WarcRecord) -> str:
    """Why a record is left out, as what completes "it ..."; empty where it is read."""
    if record.damage:
        return record.damage
    if record.kind == "continuation":
        return ""
    if record.kind not in _OF_ANSWERS:
        return f"is a record of the kind {record.kind!r}, not an answer of a site"
    if not record.address:
        return "has no address"
    if not _OF_SITES.match(record.address):
        return "is about the archive, not an answer of a site"
    return ""


def _note(
    answer: _Answer,
    best: dict[str, _Answer],
    others: dict[str, WebAnswer],
    left_out: list[ArchiveMember],
) -> None:
    """Keep an answer if it is the latest of its address."""
    record, key = answer.record, url.key(answer.record.address) or answer.record.address
    if answer.status in _GOOD and not answer.leads_to:
        earlier = best.get(key)
        if earlier and earlier.record.date > record.date:
            answer, earlier = earlier, answer
        if earlier:
            left_out.append(
                _not_read(earlier.record, "is an older answer of an address that is read")
            )
        best[key] = answer
        return
    status, why = answer.status, f"is an answer with the status {answer.status}"
    if status in _GOOD:
        status, why = _LED_ON, f"leads a visitor on to {answer.leads_to}"
    left_out.append(_not_read(record, why))
    known = others.get(key)
    if known is None or known.date <= record.date:
        target = url.resolve(record.address, answer.leads_to) if answer.leads_to else ""
        if target or status in _GONE:
            others[key] = WebAnswer(record.address, status, target, record.date)


def _original(
    revisit: WarcRecord,
    by_digest: dict[str, WarcRecord],
    by_identity: dict[str, WarcRecord],
    best: dict[str, _Answer],
) -> WarcRecord | None:
    """The record that a revisit stands for, with the address and the date of the revisit; None if there is none."""
    found = by_digest.get(revisit.digest) if revisit.digest else None
    found = found or by_identity.get(revisit.refers_to_id)
    address = revisit.refers_to
    if not address and revisit.profile.endswith(_NOT_MODIFIED):
        address = revisit.address
    if found is None and address:
        answer = best.get(url.key(address) or address)
        found = answer.record if answer else None
    if found is None:
        return None
    return replace(found, address=revisit.address, date=revisit.date)


def _not_read(record: WarcRecord, why: str) -> ArchiveMember:
    name = record.address or f"record at byte {record.offset:,}"
    return ArchiveMember(name, 0, _nothing, record.address, not_read=why)


def _cut_off(record: WarcRecord) -> ArchiveMember:
    why = f"was cut off ({record.truncated}); the beginning of it is read"
    return ArchiveMember(f"the end of {record.address}", 0, _nothing, not_read=why)


def _nothing() -> BinaryIO:
    raise OSError("it is not read")


def _named(best: dict[str, _Answer]) -> Iterator[tuple[str, _Answer]]:
    for answer in best.values():
        yield name_of(answer.record.address, answer.media_type), answer


def _opener(held: HeldFile, record: WarcRecord) -> Callable[[], BinaryIO]:
    def opener() -> BinaryIO:
        return _payload(held.file, record)

    return opener


def _leads_to(status: int, headers, address: str) -> str:  # type: ignore[no-untyped-def]
    """Where an answer sends a visitor, as it is written; empty where they stay (RFC 9110 section 10.2.2)."""
    if status in _REDIRECTS:
        return (headers.get_header("Location") or "").strip()
    target = web_refresh.target_of(headers.get_header("Refresh") or "")
    if status in _GOOD and url.key(url.resolve(address, target)) != url.key(address):
        return target
    return ""


def _answer(file: BinaryIO, record: WarcRecord) -> _Answer | str:
    """The answer in a record; why there is none, as what completes "it ..."."""
    if record.kind == "resource":
        return _Answer(record, 200, "", "")
    parsed = _parsed(file, record)
    headers = parsed.http_headers if parsed is not None else None
    if headers is None or not str(headers.get_statuscode()).isdigit():
        return "is not an answer of HTTP"
    coding = _coding(headers)
    if coding not in ("", "identity", *CODINGS):
        return f"is compressed with {coding!r}, which is not read here"
    content_type = headers.get_header("Content-Type") or ""
    media_type, charset = content_type.partition(";")[0], _CHARSET.search(content_type)
    status = int(headers.get_statuscode())
    if status in _GOOD and (damage := _damage(parsed, record)):
        record = replace(record, truncated=record.truncated or damage)
    return _Answer(
        record,
        status,
        _leads_to(status, headers, record.address),
        media_type.strip().lower(),
        charset[1] if charset else "",
    )


def _parsed(file: BinaryIO, record: WarcRecord):  # type: ignore[no-untyped-def]
    """A record as the library reads it; None where it cannot."""
    from warcio.archiveiterator import ArchiveIterator  # heavy: imported where it is used
    from warcio.exceptions import ArchiveLoadFailed

    # It warns of each address with a space, which is read all the same.
    logging.getLogger("warcio").setLevel(logging.ERROR)
    try:
        return next(iter(ArchiveIterator(stream_of(file, record))), None)
    except (ArchiveLoadFailed, EOFError, ValueError, OSError, AttributeError):
        return (
            None  # the library trips over a record without an address (an AttributeError) too
        )


def _payload(file: BinaryIO, record: WarcRecord) -> BinaryIO:
    """The bytes that the address answered, without the codings of the transfer (RFC 9110 section 8.4)."""
    parsed = _parsed(file, record)
    if parsed is None:
        raise OSError("the record cannot be read")
    return _decoded(parsed)


def _decoded(parsed) -> BinaryIO:  # type: ignore[no-untyped-def]
    """The payload of a record. The library unpacks no content coding here: it would end damaged ones in silence."""
    headers, coding = parsed.http_headers, ""
    if headers is not None:
        if (headers.get_header("Transfer-Encoding") or "").strip().lower() == "chunked":
            headers.replace_header("Transfer-Encoding", "chunked")  # it knows this form alone
        coding = _coding(headers)
        while headers.remove_header("Content-Encoding"):  # which stands twice in some
            pass
    stream = cast(BinaryIO, parsed.content_stream())
    if coding in CODINGS:
        return cast(BinaryIO, CodedStream(stream, coding))
    return stream


def _damage(parsed, record: WarcRecord) -> str:  # type: ignore[no-untyped-def]
    """What is wrong with a payload; empty for one that is whole."""
    headers = parsed.http_headers
    stated = (headers.get_header("Content-Length") or "").strip()
    if not stated.isdecimal() or len(stated) > 18 or headers.get_header("Transfer-Encoding"):
        stated = "0"
    if record.size - headers.total_len < int(stated):
        return "it has fewer bytes than the server named"
    stream = _decoded(parsed)
    if not isinstance(stream, CodedStream):
        return ""
    left = _LOOKED_AT
    while left > 0 and (block := stream.read(_BLOCK)):
        left -= len(block)
    return stream.damage


def _coding(headers) -> str:  # type: ignore[no-untyped-def]
    """The content coding of an answer, in small letters (RFC 9110 section 8.4.1)."""
    coding = (headers.get_header("Content-Encoding") or "").strip().lower()
    return coding.removeprefix("x-")
