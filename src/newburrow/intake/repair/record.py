"""One repair, as data."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

SHOWN = 60  # characters shown of what was there before and is there now


class Repair(Struct, frozen=True):
    """What was wrong at a place, and what is there now."""

    code: str  # a short name for its kind: `bare-ampersand`, `cut-off`, ...
    line: int  # in the file as it was, counted from 1
    before: str
    after: str  # empty where something was removed


Tell = Callable[[Repair], object]


def shown(data: bytes) -> str:
    """Bytes as a person reads them, cut to a readable length; what is no text as \\x.."""
    text = data[: SHOWN * 2].decode("utf-8", "backslashreplace")
    text = "".join(
        c if c.isprintable() else f"\\x{ord(c):02x}" if ord(c) < 256 else "?"
        for c in text.replace("\n", " ")
    )
    return text[:SHOWN] + ("…" if len(text) > SHOWN or len(data) > SHOWN * 2 else "")
