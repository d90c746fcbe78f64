"""Bytes that are not what the declaration says: made UTF-8, or left alone where they are right."""

from __future__ import annotations

import codecs
import re
from collections.abc import Iterator
from typing import BinaryIO

from msgspec import Struct

from newburrow.intake.repair.record import Repair, Tell, shown

CHUNK = 1 << 20
_DECLARATION = re.compile(rb"<\?xml\b([^>]*?)\?>")
_ENCODING = re.compile(rb"""(\sencoding\s*=\s*)(["'])([A-Za-z0-9._-]*)\2""")
# Characters that XML 1.0 (section 2.2) does not allow, in UTF-8.
_CONTROLS = bytes(byte for byte in range(32) if byte not in b"\t\n\r")
_NOT_XML = re.compile(rb"[\x00-\x08\x0b\x0c\x0e-\x1f]+|\xef\xbf[\xbe\xbf]")


class Coding(Struct, frozen=True):
    """How the bytes are to be read."""

    convert: bool = False  # whether bytes that are not UTF-8 are converted
    declare: bool = False  # whether the declaration must be changed to UTF-8


def examine(stream: BinaryIO) -> Coding:
    """Find out whether a file in UTF-8, or nearly so, is what it declares, by reading all of it once."""
    start = stream.read(CHUNK)
    found = _DECLARATION.search(start)
    if found:
        encoding = _ENCODING.search(found[1])
    else:
        encoding = None
    if encoding:
        declared = encoding[3].decode("ascii").lower()
    else:
        declared = "utf-8"
    right, beyond_ascii = _is_utf8(start, stream)
    if declared in ("us-ascii", "ascii"):
        return Coding(not right, beyond_ascii)
    return Coding(not right, declared not in ("utf-8", "utf8"))


def _is_utf8(start: bytes, following: BinaryIO) -> tuple[bool, bool]:
    """Whether all of it is UTF-8, and whether it holds more than ASCII."""
    decoder, block, beyond_ascii = codecs.getincrementaldecoder("utf-8")(), start, False
    try:
        while block:
            beyond_ascii = beyond_ascii or not block.isascii()
            decoder.decode(block)
            block = following.read(CHUNK)
        decoder.decode(b"", True)
    except UnicodeDecodeError:
        return False, True
    return True, beyond_ascii


class Bytes:
    """The bytes of a file, chunk by chunk, without what no parser takes. Chunks end at a line or between characters."""

    def __init__(self, stream: BinaryIO, coding: Coding, tell: Tell) -> None:
        self.stream, self.coding, self.tell = stream, coding, tell
        self.line = 1  # of the first byte of the chunk being worked on
        self._begun = False

    def chunks(self) -> Iterator[bytes]:
        """The repaired bytes."""
        start = 1
        for raw in self._raw():
            chunk, self.line = raw, start
            if not self._begun:
                chunk, self._begun = self._beginning(raw), True
            if self.coding.convert:
                chunk = as_text(chunk, self.line, self.tell).encode("utf-8")
            yield self._without_controls(chunk)
            start += raw.count(b"\n")

    def _raw(self) -> Iterator[bytes]:
        """Chunks that end at a line end where there is one, so that no character is cut."""
        buffer = b""
        while block := self.stream.read(CHUNK):
            buffer += block
            cut = buffer.rfind(b"\n") + 1
            # the first chunk reaches into the document
            if cut and (self._begun or b"<" in buffer[:cut]):
                yield buffer[:cut]
                buffer = buffer[cut:]
        if buffer:
            yield buffer

    def _beginning(self, chunk: bytes) -> bytes:
        """Remove what is before the document, and correct the encoding that it declares."""
        if chunk.startswith(codecs.BOM_UTF8):
            mark = codecs.BOM_UTF8
        else:
            mark = b""
        body = chunk[len(mark) :]
        start = re.search(rb"<[?!A-Za-z_]", body)
        if start:
            junk = body[: start.start()]
        else:
            junk = b""
        if junk.strip(b" \t\r\n") or (junk and body.startswith(b"<?xml", len(junk))):
            self.tell(Repair("before-start", 1, shown(junk.strip()), ""))
            self.line += junk.count(b"\n")
            body = body[len(junk) :]
        if self.coding.declare:
            body = self._declare(body)
        return mark + body

    def _declare(self, body: bytes) -> bytes:
        found = _DECLARATION.match(body)
        if found:
            encoding = _ENCODING.search(body, 0, found.end())
        else:
            encoding = None
        if not encoding:
            return body
        self.tell(Repair("declaration", self.line, shown(encoding[3]), "UTF-8"))
        return body[: encoding.start(3)] + b"UTF-8" + body[encoding.end(3) :]

    def _without_controls(self, chunk: bytes) -> bytes:
        if len(chunk.translate(None, _CONTROLS)) == len(chunk) and b"\xef\xbf" not in chunk:
            return chunk
        lines = _NumberedLines(chunk, self.line)

        def gone(found: re.Match[bytes]) -> bytes:
            self.tell(Repair("control-character", lines.of(found.start()), shown(found[0]), ""))
            return b""

        return _NOT_XML.sub(gone, chunk)


def as_text(chunk: bytes, line: int, tell: Tell) -> str:
    """The text of a chunk; bytes that are no UTF-8 are read as Windows-1252, where nearly all of them come from.

    `line` is that of the first byte.
    """
    lines = _NumberedLines(chunk, line)

    def as_cp1252(error: UnicodeError) -> tuple[str, int]:
        assert isinstance(error, UnicodeDecodeError)
        wrong = chunk[error.start : error.end]
        text = wrong.decode("cp1252", "replace")
        tell(Repair("encoding", lines.of(error.start), shown(wrong), text))
        return text, error.end

    codecs.register_error("newburrow-cp1252", as_cp1252)
    return chunk.decode("utf-8", "newburrow-cp1252")


class _NumberedLines:
    """The lines of places in a chunk, asked for in their order."""

    def __init__(self, chunk: bytes, line: int) -> None:
        self.chunk, self.line, self.place = chunk, line, 0

    def of(self, place: int) -> int:
        self.line += self.chunk.count(b"\n", self.place, place)
        self.place = place
        return self.line
