"""Where writers put files: below `new/` in the move folder, or nowhere in a rehearsal."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import contextmanager
from typing import BinaryIO, cast

from newburrow.decide.move_folder import MoveFolder
from newburrow.write.staging import Staging

IDS = "ids.csv"  # the table of ids that changed


class FolderOutput:
    """The output of one move.

    `written` counts the bytes of what the new host imports.
    """

    def __init__(self, folder: MoveFolder, rehearse: bool, is_packed: bool = False) -> None:
        """`is_packed` says that the host takes zips: then `staging` holds what is written until it is packed."""
        self.folder, self.rehearse = folder, rehearse
        self.staging = Staging(folder) if is_packed and not rehearse else None
        self.written = 0

    def open(self, name: str) -> BinaryIO:
        """A new file of what the new host imports, under a name relative to `new/`."""
        if self.staging:
            file = self.staging.open(name)
        else:
            file = self.plain(f"new/{name}")
        return cast(BinaryIO, _SizedFile(file, self))

    def free_name(self, name: str) -> str:
        """The name, or the next one with a number before its extension that no file of this run has."""
        stem, dot, extension = name.rpartition(".")
        free, number = name, 1
        while self._has_written(free):
            number += 1
            free = f"{stem}-{number}{dot}{extension}"
        return free

    def _has_written(self, name: str) -> bool:
        if self.staging:
            return self.staging.has(name)
        return self.folder.has_written(f"new/{name}")

    def plain(self, name: str) -> BinaryIO:
        """A new file under a name relative to the move folder."""
        if self.rehearse:
            return cast(BinaryIO, _Nowhere())
        return self.folder.open(name)

    @contextmanager
    def replacing(self, name: str) -> Iterator[BinaryIO]:
        """A stream for a file that a person may have changed; see `MoveFolder.replacing`."""
        if self.rehearse:
            yield cast(BinaryIO, _Nowhere())
            return
        with self.folder.replacing(name) as stream:
            yield stream


class _SizedFile:
    """A file whose bytes are counted."""

    def __init__(self, file: BinaryIO, output: FolderOutput) -> None:
        self.file, self.output = file, output
        self.close, self.flush = file.close, file.flush

    def write(self, data: bytes) -> int:
        """Write, and count."""
        self.output.written += len(data)
        return self.file.write(data)

    def __enter__(self) -> _SizedFile:
        return self

    def __exit__(self, *_exc: object) -> None:
        self.file.close()


class _Nowhere(io.BytesIO):
    """A file that forgets what is written to it."""

    def write(self, data: object) -> int:
        return len(cast(bytes, data))
