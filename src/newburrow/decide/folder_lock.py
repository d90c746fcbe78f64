"""The lock of a move folder: one command at a time writes there, and another says who does.

The lock is one of the operating system on the file `.lock` (flock), so it ends with the process that holds it,
however that ends. What stands in the file is for people; a file without a lock is from a run that was broken off.
"""

from __future__ import annotations

import os
import socket
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import datetime
from pathlib import Path

import msgspec
from msgspec import Struct

from newburrow.core.problem import BurrowError, refusal

try:
    import fcntl
except ImportError:  # no such locks on this system: then only what stands in the file is told
    fcntl = None  # type: ignore[assignment]

LOCK = ".lock"


class LockHolder(Struct, frozen=True):
    """Who holds a lock, or held it when a run was broken off."""

    process: int = 0
    machine: str = ""
    since: str = ""  # date and time, RFC 3339


@contextmanager
def locked(folder: Path) -> Iterator[LockHolder | None]:
    """Hold the lock of a folder. Gives who held it in a run that was broken off, None where there was none.

    Raises BurrowError, with who holds it and since when, if another process does.
    """
    path = folder / LOCK
    number = _opened(path)
    try:
        left = _holder(path)
        mine = LockHolder(
            os.getpid(),
            socket.gethostname(),
            datetime.now().astimezone().isoformat("T", "seconds"),
        )
        os.ftruncate(number, 0)
        os.pwrite(number, msgspec.json.encode(mine), 0)
        try:
            yield left
        finally:
            with suppress(OSError):
                path.unlink()
    finally:
        os.close(number)


def _opened(path: Path) -> int:
    """The open lock file, locked. Another process may remove the file between opening and locking it: then again."""
    while True:
        try:
            number = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o666)
        except OSError as error:
            raise refusal(
                "cannot-write",
                f"Nothing can be written in the folder {str(path.parent)!r}: {error.strerror}.",
                "Check its permissions, or name another folder.",
            ) from None
        if fcntl is None:
            return number
        try:
            fcntl.flock(number, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(number)
            raise _in_use(path) from None
        with suppress(OSError):
            if os.path.samestat(os.fstat(number), path.stat()):
                return number
        os.close(number)


def _holder(path: Path) -> LockHolder | None:
    try:
        return msgspec.json.decode(path.read_bytes(), type=LockHolder)
    except (OSError, msgspec.MsgspecError):
        return None


def _in_use(path: Path) -> BurrowError:
    holder = _holder(path) or LockHolder()
    return refusal(
        "in-use",
        f"Another run of New Burrow works in {str(path.parent)!r}: process {holder.process} on "
        f"{holder.machine or 'this machine'}, since {holder.since or 'a moment ago'}.",
        "Wait until it ends, or stop it; then run the command again.",
    )
