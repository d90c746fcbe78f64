"""A bound on the time that a piece of work may take, for work that others wrote: expressions, templates, parsers.

The limits are far above what honest work needs, so that no result depends on the speed of a machine.
"""

from __future__ import annotations

import signal
import threading
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from types import FrameType
from typing import TypeVar

T = TypeVar("T")


class TimeLimitReached(Exception):
    """Raised within the work, where it is when the time is over."""


def _can_interrupt() -> bool:
    """Whether work can be interrupted here."""
    return threading.current_thread() is threading.main_thread() and hasattr(
        signal, "setitimer"
    )


@contextmanager
def time_limit(seconds: float) -> Iterator[None]:
    """Raise TimeLimitReached in the work within after so many seconds.

    An outer limit goes on to count. Only the main thread of a process can be interrupted; elsewhere, and on
    systems without such timers, there is no limit.
    """
    if not _can_interrupt():
        yield
        return

    def over(_number: int, _frame: FrameType | None) -> None:
        raise TimeLimitReached

    outer = signal.signal(signal.SIGALRM, over)
    left, interval = signal.setitimer(signal.ITIMER_REAL, seconds)
    began = time.monotonic()
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, outer)
        if left:  # of an outer limit
            left = max(left - (time.monotonic() - began), 0.001)
            signal.setitimer(signal.ITIMER_REAL, left, interval)


def each_within(items: Iterable[T], seconds: float) -> Iterator[T]:
    """The items, each of which must come within so many seconds, or a quarter more. Raises TimeLimitReached.

    The time that the caller takes between two of them does not count. It must not be called within `time_limit`.
    """
    if not _can_interrupt():
        yield from items
        return

    # Looking at the clock for each record of an export takes a tenth of the time of setting a timer for it.
    asked = 0.0  # when the item was asked for; 0 while the caller is at work

    def look(_number: int, _frame: FrameType | None) -> None:
        if asked and time.monotonic() - asked >= seconds:
            raise TimeLimitReached

    iterator, end = iter(items), object()
    outer = signal.signal(signal.SIGALRM, look)
    signal.setitimer(signal.ITIMER_REAL, seconds / 4, seconds / 4)
    try:
        while True:
            asked = time.monotonic()
            item = next(iterator, end)
            asked = 0.0
            if item is end:
                return
            yield item  # type: ignore[misc]
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        if _can_interrupt():  # a generator may be closed by another thread
            signal.signal(signal.SIGALRM, outer)
