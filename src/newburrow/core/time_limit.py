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
    left, _interval = signal.setitimer(signal.ITIMER_REAL, seconds)
    began = time.monotonic()
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, outer)
        if left:  # of an outer limit
            signal.setitimer(signal.ITIMER_REAL, max(left - (time.monotonic() - began), 0.001))


def each_within(items: Iterable[T], seconds: float) -> Iterator[T]:
    """The items, each of which must come within so many seconds. Raises TimeLimitReached.

    The time that the caller takes between two of them does not count. It must not be called within `time_limit`.
    """
    if not _can_interrupt():
        yield from items
        return

    def over(_number: int, _frame: FrameType | None) -> None:
        raise TimeLimitReached

    iterator, end = iter(items), object()
    outer = signal.signal(signal.SIGALRM, over)
    try:
        while True:
            # one call for each item: this is done for every record of an export
            signal.setitimer(signal.ITIMER_REAL, seconds)
            item = next(iterator, end)
            signal.setitimer(signal.ITIMER_REAL, 0)
            if item is end:
                return
            yield item  # type: ignore[misc]
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        if _can_interrupt():  # a generator may be closed by another thread
            signal.signal(signal.SIGALRM, outer)
