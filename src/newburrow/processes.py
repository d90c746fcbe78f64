"""Other processes of this program, which end when the first one does, however that ends."""

from __future__ import annotations

import gc
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from typing import Any


def workers(count: int, begin: Callable[..., None] | None = None, facts: tuple[Any, ...] = ()) -> ProcessPoolExecutor:
    """So many processes, each of which calls `begin` with these facts before anything else."""
    return ProcessPoolExecutor(count, get_context("spawn"), _begin, (os.getpid(), gc.get_threshold(), begin, facts))


def _begin(
    parent: int, seldom: tuple[int, int, int], begin: Callable[..., None] | None, facts: tuple[Any, ...]
) -> None:
    threading.Thread(target=_watch, args=(parent,), daemon=True).start()
    gc.set_threshold(*seldom)  # as the first process
    if begin:
        begin(*facts)


def _watch(parent: int) -> None:
    """A process waits for work for ever, also when nobody is left to give it any."""
    while os.getppid() == parent:
        time.sleep(1)
    os._exit(1)
