"""A page or a text read whole, which is refused where it is far too large for one."""

from __future__ import annotations

from typing import BinaryIO

from newburrow.core.problem import refusal
from newburrow.model.record import Where

LONGEST = 64 * 1024 * 1024  # bytes
# Bytes of a first read. A stream makes room for all that is asked for, which takes longer than most files do.
_BLOCK = 1 << 17


def whole_text(stream: BinaryIO, label: str, named: str) -> bytes:
    """All bytes of a stream; `named` says what it holds, such as "page".

    Raises BurrowError (`too-large-text`) for more than LONGEST.
    """
    data = beginning(stream, LONGEST + 1)
    if len(data) <= LONGEST:
        return data
    raise refusal(
        "too-large-text",
        f"The {named} is larger than {LONGEST:,} bytes.",
        "Remove it from the export.",
        Where(label),
    )


def beginning(stream: BinaryIO, most: int) -> bytes:
    """The first bytes of a stream, `most` of them at most."""
    data = stream.read(min(_BLOCK, most))
    if len(data) < _BLOCK:
        return data
    return data + stream.read(most - len(data))
