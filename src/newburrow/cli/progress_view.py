"""How far the work has come: bars on a terminal; elsewhere a line now and then, so that a log shows that it goes on."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from newburrow.core.progress import Event, Listener

BETWEEN_LINES = 15.0  # seconds
_SURE = 2.0  # seconds after which the time that is left can be guessed


class Pace:
    """How fast each stage goes."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._began: dict[
            str, tuple[float, int]
        ] = {}  # stage -> when, and how much was done then

    def amount(self, event: Event) -> str:
        """How much is done, such as `1,200 of 4,000 entries, 30%, about 2 min left`."""
        began, before = self._began.setdefault(event.stage, (self._clock(), event.done))
        if not event.total:
            return f"{event.done:,} {event.unit}"
        words = (
            f"{event.done:,} of {event.total:,} {event.unit}, {event.done / event.total:.0%}"
        )
        passed, done = self._clock() - began, event.done - before
        if passed < _SURE or done <= 0 or event.done >= event.total:
            return words
        return f"{words}, about {_duration(passed / done * (event.total - event.done))} left"


def _duration(seconds: float) -> str:
    if seconds < 90:
        return f"{max(1, round(seconds))} s"
    if seconds < 90 * 60:
        return f"{round(seconds / 60)} min"
    return f"{seconds / 3600:.1f} h"


def lines(say: Callable[[str], None], clock: Callable[[], float] = time.monotonic) -> Listener:
    """A listener that says a line now and then; `clock` gives seconds."""
    pace, last = Pace(clock), clock()

    def note(event: Event) -> None:
        nonlocal last
        if not event.stage:
            return
        amount = pace.amount(event)
        if clock() - last >= BETWEEN_LINES:
            last = clock()
            say(f"{event.stage}: {amount}")

    return note


@contextmanager
def bars() -> Iterator[Listener]:
    """A listener that shows a bar for each stage on standard error, which is a terminal; they go away at the end."""
    import sys

    from rich.console import Console
    from rich.progress import BarColumn, Progress, TaskID, TextColumn

    columns = (
        TextColumn("{task.description}"),
        BarColumn(),
        TextColumn("{task.fields[amount]}"),
    )
    with Progress(*columns, console=Console(file=sys.stderr), transient=True) as shown:
        tasks: dict[str, TaskID] = {}
        pace = Pace()

        def show(event: Event) -> None:
            if event.notice:
                shown.console.print(event.notice, markup=False, highlight=False)
                return
            if event.stage not in tasks:
                tasks[event.stage] = shown.add_task(event.stage, amount="")
            shown.update(
                tasks[event.stage],
                completed=event.done,
                total=event.total or None,
                amount=pace.amount(event),
            )

        yield show
