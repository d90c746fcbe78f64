"""What ends a run besides our own refusals, in plain words: what happened, what is left, how to go on."""

from __future__ import annotations

import errno
import sqlite3

_GO_ON = "If something was written by then, it is not complete: run the same command again."
_ADVICE = {
    errno.ENOSPC: "Make room on that disk.",
    errno.EDQUOT: "Make room, or ask for a larger quota.",
    errno.EFBIG: "A limit on the size of files was reached (`ulimit -f`), or the disk takes none so large.",
    errno.EROFS: "Name a folder on a disk that can be written to.",
    errno.EACCES: "Check who may write there.",
    errno.EPERM: "Check who may write there.",
    errno.EMFILE: "Allow more open files (`ulimit -n`), or use fewer processes (--jobs 1).",
    errno.ENFILE: "Close other programs, or use fewer processes (--jobs 1).",
    errno.ENOMEM: "Close other programs, or use fewer processes (--jobs 1).",
    errno.EIO: "The disk has a fault; copy what is on it.",
    errno.ENAMETOOLONG: "Use shorter names of folders.",
}
_NEW_STORE = "Remove content.sqlite from the move folder; it is made again."
_ROOM = "See that there is room, and that `ulimit -f` allows such files."
_ALLOWED = "Check who may write in the folder."
_SQLITE = (
    ("full", "The disk is full", "Make room on it."),
    ("readonly", "The content store cannot be written", _ALLOWED),
    ("unable to open", "The content store cannot be opened", _ALLOWED),
    ("disk i/o", "The content store cannot be written or read", _ROOM),
    ("locked", "Another program uses the content store", "Close it."),
    ("malformed", "The content store is damaged", _NEW_STORE),
    ("not a database", "The content store is damaged", _NEW_STORE),
)


def in_words(error: BaseException) -> str:
    """The message for an error that no part of the program has turned into a refusal; empty for a fault of ours."""
    if isinstance(error, OSError):
        reason = (error.strerror or str(error)).rstrip(".")
        place = f": {error.filename}" if error.filename else ""
        advice = _ADVICE.get(error.errno or 0, "Check the disk, and who may write there.")
        return f"{reason}{place}\n  {advice} {_GO_ON}"
    if isinstance(error, sqlite3.DatabaseError):
        words = str(error).lower()
        for sign, message, advice in _SQLITE:
            if sign in words:
                return f"{message} ({error}).\n  {advice} {_GO_ON}"
    if isinstance(error, ModuleNotFoundError):
        return f"A part of the program is missing ({error}).\n  Install New Burrow again."
    if isinstance(error, MemoryError | ImportError) or "start new thread" in str(
        error
    ):  # a library that cannot be loaded
        reason = f" ({error})" if str(error) else ""
        return f"There is not enough memory{reason}.\n  {_ADVICE[errno.ENOMEM]} {_GO_ON}"
    return ""
