"""Other processes of this program, which end when the first one does, however that ends."""

from __future__ import annotations

import gc
import os
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from functools import lru_cache
from multiprocessing import forkserver, get_all_start_methods, get_context
from multiprocessing.connection import Connection
from typing import Any

_HAS_SERVER = "forkserver" in get_all_start_methods()
_context: Any = get_context("forkserver" if _HAS_SERVER else "spawn")


def prepare(module: str) -> None:
    """Have processes ready that know a module, before they are needed: to load it takes them longest."""
    if _HAS_SERVER:
        _context.set_forkserver_preload([module])
        forkserver.ensure_running()


def workers(
    count: int, begin: Callable[..., None] | None = None, facts: tuple[Any, ...] = ()
) -> ProcessPoolExecutor:
    """So many processes, each of which calls `begin` with these facts before anything else."""
    return ProcessPoolExecutor(
        count, _context, _begin, (_pipe()[0], gc.get_threshold(), begin, facts)
    )


@lru_cache(maxsize=1)
def _pipe() -> tuple[Connection, Connection]:
    """Nothing is ever sent through it; its end is that of this process."""
    reading, writing = _context.Pipe(duplex=False)
    return reading, writing


def _begin(
    first: Connection,
    seldom: tuple[int, int, int],
    begin: Callable[..., None] | None,
    facts: tuple[Any, ...],
) -> None:
    threading.Thread(target=_watch, args=(first,), daemon=True).start()
    gc.set_threshold(*seldom)  # as the first process
    if begin:
        begin(*facts)


def _watch(first: Connection) -> None:
    """A process waits for work for ever, also when nobody is left to give it any."""
    first.poll(None)
    os._exit(1)
