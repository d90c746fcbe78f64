"""Work in progress, told to whoever wants to show it. The core prints nothing and knows no terminal."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct


class Event(Struct, frozen=True):
    """How far a stage has come."""

    stage: str  # in plain words: `Reading the export`
    done: int
    total: int = 0  # 0 where it is not known
    unit: str = "entries"  # what `done` and `total` count; `bytes` for bytes


Listener = Callable[[Event], None]


def nobody(_event: Event) -> None:
    """The listener that does not listen."""
