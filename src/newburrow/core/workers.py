"""Several processes for one run: how many, how work is shared among them, and how they end.

This is the only way in which New Burrow uses other processes. They end when the first one does,
however that ends. Work comes back in its order, and an error of a worker is raised here as it was
there: its type, and for a `BurrowError` its problem with the place, survive.
"""

from __future__ import annotations

import gc
import os
import sys
import threading
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from functools import lru_cache
from math import ceil
from multiprocessing import context, forkserver, get_all_start_methods
from multiprocessing.connection import Connection
from pathlib import Path
from types import ModuleType
from typing import Any, Generic, TypeVar

from newburrow.core.problem import BurrowError, refusal

R = TypeVar("R")

_LEAST_OPEN_FILES = 128  # that several processes need
_AHEAD = 3  # tasks for each process that wait or run; all are held in memory
_HAS_SERVER = "forkserver" in get_all_start_methods()
_CGROUP = Path("/sys/fs/cgroup")


def available() -> int:
    """How many processes can really run at a time.

    The smaller of the cores that this process may use (its affinity) and the quota of its control
    group (cgroup v1 and v2), and at least 1; 1 where few files may be open. The number of cores of
    the machine does not count.
    """
    if hasattr(os, "sched_getaffinity"):
        cores = len(os.sched_getaffinity(0))
    else:
        cores = os.cpu_count() or 1
    if _open_files() < _LEAST_OPEN_FILES:
        return 1
    return max(1, min(cores, _quota(_CGROUP) or cores))


def _open_files() -> int:
    """How many files this process may have open."""
    try:
        import resource
    except ImportError:  # no such limit on this system
        return _LEAST_OPEN_FILES
    soft, _hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    if soft >= 0:
        return soft
    return _LEAST_OPEN_FILES


def _quota(folder: Path) -> int:
    """The cores that a control group grants, rounded up; 0 where it sets no limit.

    Reads `cpu.max` (version 2), or `cpu/cpu.cfs_quota_us` and `cpu.cfs_period_us` (version 1).
    """
    try:
        quota, period = (folder / "cpu.max").read_text("ascii").split()[:2]
    except (OSError, ValueError):
        try:
            quota = (folder / "cpu/cpu.cfs_quota_us").read_text("ascii")
            period = (folder / "cpu/cpu.cfs_period_us").read_text("ascii")
        except OSError:
            return 0
    try:
        granted = int(quota) / int(period)
    except (ValueError, ZeroDivisionError):  # `max`: no limit
        return 0
    if granted > 0:
        return ceil(granted)
    return 0


def prepare(module: str) -> None:
    """Start the processes and let them import a module before they are needed, since importing takes longest."""
    _preload(module)
    if _HAS_SERVER:
        forkserver.ensure_running()


@lru_cache(maxsize=1)
def _preload(module: str) -> None:
    """Choose, once for the whole run, what the server of processes imports: else that would be the script."""
    if _HAS_SERVER:
        forkserver.set_forkserver_preload([module])


class Pool:
    """Processes that do work in its order. Use as a context manager.

    `begin`, a function of a module, is called in each process with `facts` before anything else.
    """

    def __init__(
        self, jobs: int, begin: Callable[..., None] | None = None, facts: tuple[Any, ...] = ()
    ) -> None:
        self.jobs = jobs
        if not _preload.cache_info().currsize:
            _preload(__name__)
        first = (_pipe()[0], gc.get_threshold(), begin, facts)
        self._executor = ProcessPoolExecutor(jobs, _ProcessContext(), _begin, first)

    def __enter__(self) -> Pool:
        return self

    def __exit__(self, *_exc: object) -> None:
        self._executor.shutdown(cancel_futures=True)

    def start(self, task: Callable[..., R], *arguments: Any) -> PendingResult[R]:
        """Call a module-level function in one of the processes, without waiting for its result."""
        try:
            return PendingResult(self._executor.submit(task, *arguments))
        except BrokenProcessPool:
            raise _ended() from None

    def ordered(
        self, task: Callable[..., R], arguments: Iterable[tuple[Any, ...]]
    ) -> Iterator[R]:
        """Call a function for each of these arguments in other processes; yields the results in order.

        Only a few calls are waiting at a time, so memory does not grow with their number. An error that the
        function raises is raised here, with its type; the rest of the calls is given up.
        """
        waiting: deque[PendingResult[R]] = deque()
        coming = iter(arguments)
        more = True
        while more or waiting:
            while more and len(waiting) < self.jobs * _AHEAD:
                piece = next(coming, None)
                if piece is None:
                    more = False
                else:
                    waiting.append(self.start(task, *piece))
            if waiting:
                yield waiting.popleft().result()


class PendingResult(Generic[R]):
    """The result of work that another process does."""

    def __init__(self, future: Future[R]) -> None:
        self._future = future

    def result(self) -> R:
        """Wait for the result. Raises what the function raised, or BurrowError if its process was killed."""
        try:
            return self._future.result()
        except BrokenProcessPool:
            raise _ended() from None


def _ended() -> BurrowError:
    return refusal(
        "process-ended",
        "A process of this run was ended from outside.",
        "Most likely there was not enough memory. Run the command again, with a smaller --jobs.",
    )


class _Process(context.ForkServerProcess if _HAS_SERVER else context.SpawnProcess):  # type: ignore[misc]
    """A process that does not import the script that was started: it may have no guard against that."""

    def start(self) -> None:
        with _without_main():
            super().start()


class _ProcessContext(context.ForkServerContext if _HAS_SERVER else context.SpawnContext):  # type: ignore[misc]
    Process = _Process


@contextmanager
def _without_main() -> Iterator[None]:
    """Let `__main__` be an empty module for the moment in which a process is described to another."""
    main = sys.modules["__main__"]
    sys.modules["__main__"] = ModuleType("__main__")
    try:
        yield
    finally:
        sys.modules["__main__"] = main


@lru_cache(maxsize=1)
def _pipe() -> tuple[Connection, Connection]:
    """Nothing is ever sent through it; its end is that of this process."""
    reading, writing = _ProcessContext().Pipe(duplex=False)
    return reading, writing


def _begin(
    first: Connection,
    gc_threshold: tuple[int, int, int],
    begin: Callable[..., None] | None,
    facts: tuple[Any, ...],
) -> None:
    threading.Thread(target=_watch, args=(first,), daemon=True).start()
    gc.set_threshold(*gc_threshold)  # as in the first process
    if begin:
        begin(*facts)


def _watch(first: Connection) -> None:
    """A process waits for work for ever, also when nobody is left to give it any."""
    first.poll(None)
    os._exit(1)
