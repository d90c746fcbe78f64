"""What `verify` has measured, in the report: it takes the place of the words that say how to measure it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import BinaryIO

from msgspec import Struct

from newburrow.core import atomic_file
from newburrow.report.pages import rendered
from newburrow.verify.fidelity import Kept

BEGINS, ENDS = b"<!-- fidelity begins -->", b"<!-- fidelity ends -->"
_BLOCK = 256 * 1024  # bytes; the marks stand in the first two


class LowEntry(Struct, frozen=True):
    """An entry of which not all is there."""

    title: str
    old: str  # address
    figure: float  # 0 to 1
    changed: str  # what is not as it was


class Measured(Struct, frozen=True):
    """What verifying has measured."""

    figure: float  # 0 to 1
    entries: int
    as_before: int  # those of them of which all is there
    unexplained: int  # differences
    aspects: Sequence[tuple[str, Kept]]  # words, headings, ...
    lowest: Sequence[LowEntry]

    @property
    def is_right(self) -> bool:
        """Whether every difference is explained."""
        return not self.unexplained


def write_into(report: Path, measured: Measured) -> None:
    """Put what was measured into a report that is there; one without a place for it stays as it is."""
    if not report.is_file():
        return
    made = rendered("fidelity.html.j2", measured=measured).encode("utf-8", "replace")
    with report.open("rb") as stream, atomic_file.replacing(report) as out:
        for piece in _with_part(stream, b"\n" + made):
            out.write(piece)


def _with_part(stream: BinaryIO, made: bytes) -> Iterator[bytes]:
    """The bytes of a report, with a part between the first marks."""
    start = stream.read(2 * _BLOCK)
    before, begins, rest = start.partition(BEGINS)
    _old, ends, after = rest.partition(ENDS)
    if begins and ends:
        yield from (before, begins, made, ends, after)
    else:
        yield start
    while block := stream.read(_BLOCK):
        yield block
