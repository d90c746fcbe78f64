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


@contextmanager
def time_limit(seconds: float) -> Iterator[None]:
    """Raise TimeLimitReached in the work within after so many seconds.

    An outer limit goes on to count. Only the main thread of a process can be interrupted; elsewhere, and on
    systems without such timers, there is no limit.
    """
    if threading.current_thread() is not threading.main_thread() or not hasattr(
        signal, "setitimer"
    ):
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
    """The items, each of which must come within so many seconds. Raises TimeLimitReached."""
    iterator = iter(items)
    while True:
        with time_limit(seconds):
            try:
                item = next(iterator)
            except StopIteration:
                return
        yield item
