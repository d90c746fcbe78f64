"""Replacing a file as a whole: whoever stops on the way leaves the old one as it was."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO


@contextmanager
def replacing(path: Path) -> Iterator[BinaryIO]:
    """A stream for the new content of a file, which takes its place when the block ends without an error."""
    new = path.with_name(f".{path.name}.new")
    try:
        with new.open("wb") as stream:
            yield stream
        with new.open("rb") as written:
            os.fsync(written.fileno())
        new.replace(path)
    except BaseException:
        new.unlink(missing_ok=True)
        raise
