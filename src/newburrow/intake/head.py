"""The beginning of a part, by which it is recognised."""

from __future__ import annotations

import codecs
from typing import BinaryIO

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core.problem import BurrowError
from newburrow.intake.encodings import (
    TextEncoding,
    WrongBytes,
    encoding_of,
    true_encoding,
    utf8_stream,
)
from newburrow.intake.html_type import is_html
from newburrow.intake.part import Part
from newburrow.intake.prolog import Prolog, read_prolog

HEAD = 4096  # bytes read to recognise a part
_WHITE = b"\xef\xbb\xbf \t\r\n"


class Head(Struct, frozen=True):
    """What a format is recognised by: never the extension alone."""

    name: str
    start: bytes  # the first bytes, at most HEAD, in UTF-8
    prolog: Prolog | None  # where the part is XML
    text: Part  # the part in UTF-8; the part itself if it is that, or no text
    encoding: TextEncoding | None = None  # that the part is in; None for UTF-8


def head_of(part: Part) -> Head:
    """What the beginning of a part says about it.

    A text that declares no encoding and is not UTF-8 is taken for Windows-1252 here: that does not matter
    to what formats are recognised by. Raises BurrowError if the part cannot be read, or is XML that
    declares entities.
    """
    with part.open(HEAD) as stream:
        start = stream.read(HEAD)
        encoding = encoding_of(start, part.charset)
        if not encoding:
            start, prolog = _beginning(start, stream, part)
            return Head(part.name, start, prolog, part)
    encoding = true_encoding(part.open, encoding)
    # Wrong bytes do not matter here: this may be no text at all; else its reader names them.
    with as_utf8(part, encoding, lambda _line, _bytes: None).open() as stream:
        start, prolog = _beginning(stream.read(HEAD), stream, part)
    return Head(part.name, start, prolog, as_utf8(part, encoding), encoding)


def _beginning(start: bytes, rest: BinaryIO, part: Part) -> tuple[bytes, Prolog | None]:
    """The first bytes in UTF-8, and what they say where they are XML; `rest` is the stream after them."""
    if start.lstrip(_WHITE).startswith(b"<"):
        try:
            return start, read_prolog(rest, part.label, start)
        except BurrowError as error:
            # XHTML may declare entities (XHTML 1.0, appendix A); the HTML parser expands none.
            if error.problem.code != "entity-declaration" or not is_html(start):
                raise
            return start, None
    if b"\x00" not in start:
        return _readable(start), None
    return start, None


def as_utf8(part: Part, encoding: TextEncoding, wrong: WrongBytes | None = None) -> Part:
    """The part as UTF-8: see `encodings.utf8_stream`."""
    return replace(
        part, opener=lambda: utf8_stream(part.open, encoding, part.label, wrong), seek=None
    )


def _readable(start: bytes) -> bytes:
    """The beginning of a text in UTF-8; its last character may be cut."""
    try:
        codecs.getincrementaldecoder("utf-8")().decode(start)
    except UnicodeDecodeError:
        return start.decode("cp1252", "replace").encode("utf-8")
    return start
