"""What `verify` has measured, in the report: it takes the place of the words that say how to measure it."""

from __future__ import annotations

from collections.abc import Sequence
from mmap import ACCESS_READ, mmap
from pathlib import Path
from typing import BinaryIO

from msgspec import Struct

from newburrow.core import atomic_file
from newburrow.report.pages import rendered
from newburrow.verify.fidelity import Kept

# Around the parts, in their order. No text from an export has them: its `<` is escaped.
_FIDELITY = b"<!-- fidelity begins -->", b"<!-- fidelity ends -->"
_SAMPLES = b"<!-- samples begin -->", b"<!-- samples end -->"
_BLOCK = 1024 * 1024  # bytes


class LowEntry(Struct, frozen=True):
    """An entry of which not all is there."""

    key: str
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


def write_into(report: Path, measured: Measured, samples: str) -> None:
    """Put what was measured, and samples (JSON), into a report that is there; one without their places stays."""
    if not report.is_file() or not report.stat().st_size:
        return
    made = rendered("fidelity.html.j2", measured=measured)
    script = f'<script type="application/json">{samples}</script>'
    parts = ((_FIDELITY, f"\n{made}"), (_SAMPLES, script))
    with (
        report.open("rb") as stream,
        mmap(stream.fileno(), 0, access=ACCESS_READ) as old,
        atomic_file.replacing(report) as out,
    ):
        place = 0
        for (begins, ends), text in parts:
            start = old.find(begins, place)
            end = old.find(ends, start)
            if start < 0 or end < 0:
                continue
            _copy(old, place, start + len(begins), out)
            out.write(text.encode("utf-8", "replace"))
            place = end
        _copy(old, place, len(old), out)


def _copy(old: mmap, start: int, end: int, out: BinaryIO) -> None:
    for place in range(start, end, _BLOCK):
        out.write(old[place : min(place + _BLOCK, end)])
