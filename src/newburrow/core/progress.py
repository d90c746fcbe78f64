"""Work in progress, reported to whoever wants to show it. The core prints nothing and knows no terminal."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct


class Event(Struct, frozen=True):
    """How far a stage has come, or a notice."""

    stage: str  # in plain words: `Reading the export`
    done: int
    total: int = 0  # 0 where it is not known
    unit: str = "entries"  # what `done` and `total` count; `bytes` for bytes
    notice: str = ""  # a sentence to report once, instead of a stage

    @classmethod
    def of_notice(cls, text: str) -> Event:
        """An event with a sentence that the person should read, with or without a terminal."""
        return cls("", 0, notice=text)


Listener = Callable[[Event], None]


def nobody(_event: Event) -> None:
    """A listener that ignores every event."""
