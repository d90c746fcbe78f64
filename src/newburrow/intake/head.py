"""The beginning of a part, by which it is recognised."""

from __future__ import annotations

from msgspec import Struct

from newburrow.intake.part import Part
from newburrow.intake.prolog import Prolog, read_prolog

HEAD = 4096  # bytes read to recognise a part
_WHITE = b"\xef\xbb\xbf \t\r\n"
_UTF_16 = (b"\xff\xfe", b"\xfe\xff")


class Head(Struct, frozen=True):
    """What a format is recognised by: never the extension alone."""

    name: str
    start: bytes  # the first bytes, at most HEAD
    prolog: Prolog | None  # where the part is XML


def head_of(part: Part) -> Head:
    """What the beginning of a part says about it.

    Raises BurrowError where it cannot be read, or is XML that declares entities.
    """
    with part.open() as stream:
        start = stream.read(HEAD)
    prolog = None
    if start.lstrip(_WHITE).startswith(b"<") or start[:2] in _UTF_16:
        with part.open() as stream:
            prolog = read_prolog(stream, part.label)
    return Head(part.name, start, prolog)
