"""A bound on the memory that a piece of work may take, for work that others wrote."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

try:
    import resource
except ImportError:  # no such limits on this system
    resource = None  # type: ignore[assignment]

_STATM = Path("/proc/self/statm")  # its first number is the size of the process in pages


@contextmanager
def memory_limit(most: int) -> Iterator[None]:
    """Let the work within fail with MemoryError if it needs more than `most` bytes in addition.

    Where the system does not tell the size of a process there is no limit.
    """
    if resource is None or not _STATM.exists():
        yield
        return
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    now = int(_STATM.read_text("ascii").split()[0]) * resource.getpagesize()
    limit = now + most
    if soft != resource.RLIM_INFINITY:
        limit = min(limit, soft)
    resource.setrlimit(resource.RLIMIT_AS, (limit, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (soft, hard))
