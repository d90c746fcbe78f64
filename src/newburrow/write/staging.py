"""What will be packed. Small files lie in one file on disk until then: to make a file takes longer than to write it."""

from __future__ import annotations

import io
from collections.abc import Iterable
from pathlib import Path
from typing import BinaryIO, Protocol, cast

from msgspec import Struct

from newburrow.core.problem import refusal

_TOGETHER = "new/not-packed"  # the file that holds them
_SMALL = 1 << 16  # bytes; a larger file is a file of its own


class _FilesBelow(Protocol):
    """What is needed of a move folder; see `MoveFolder`."""

    path: Path

    def claim(self, name: str) -> Path: ...

    def open(self, name: str) -> BinaryIO: ...

    def drop(self, names: Iterable[str]) -> None: ...


class _Range(Struct, frozen=True):
    """Where a small file lies: offset and size in bytes."""

    offset: int
    size: int


class Staging:
    """The files that a writer has written for a host that takes them in zips, by their names relative to `new/`."""

    def __init__(self, folder: _FilesBelow) -> None:
        self.folder = folder
        self._places: dict[str, _Range | None] = {}  # None for a file of its own
        self._open: set[str] = set()  # names of files that are being written
        self._own: set[str] = set()  # names of files that are or were files of their own
        self._together: BinaryIO | None = None
        self._end = 0  # bytes of small files

    def open(self, name: str) -> BinaryIO:
        """A new file to write. Raises BurrowError for a name that would lead out of a folder."""
        if name.startswith("/") or ".." in name.split("/") or "\0" in name:
            raise refusal("outside-folder", f"The file name {name!r} leads out of the zip.", "")
        self._open.add(name)
        return cast(BinaryIO, _StagedFile(name, self))

    def has(self, name: str) -> bool:
        """Whether a file of this name was opened."""
        return name in self._places or name in self._open

    def names(self) -> list[str]:
        """The names of all files. They must all be closed."""
        assert not self._open, f"still being written: {sorted(self._open)}"
        return list(self._places)

    def size(self, name: str) -> int:
        """Bytes of a file."""
        if place := self._places[name]:
            return place.size
        return (self.folder.path / "new" / name).stat().st_size

    def read(self, name: str) -> BinaryIO:
        """A stream of a file's bytes."""
        place = self._places[name]
        if place is None:
            return (self.folder.path / "new" / name).open("rb")
        assert self._together is not None
        self._together.seek(place.offset)
        return io.BytesIO(self._together.read(place.size))

    def keep(self, name: str, data: bytearray) -> None:
        """Keep a small file that is complete."""
        if self._together is None:
            self._together = self.folder.claim(_TOGETHER).open("w+b")
        self._together.write(data)
        self._places[name] = _Range(self._end, len(data))
        self._end += len(data)
        self._open.discard(name)

    def by_itself(self, name: str) -> BinaryIO:
        """A file of its own for one that is not small."""
        self._own.add(name)
        return self.folder.open(f"new/{name}")

    def kept_by_itself(self, name: str) -> None:
        """A file of its own is complete."""
        self._places[name] = None
        self._open.discard(name)

    def remove(self) -> None:
        """Remove all files, after they were packed."""
        files = [f"new/{name}" for name in sorted(self._own)]
        if self._together is not None:
            self._together.close()
            files.append(_TOGETHER)
        self.folder.drop(files)


class _StagedFile:
    """A file being written, in memory for as long as it is small."""

    def __init__(self, name: str, staging: Staging) -> None:
        self._name, self._staging = name, staging
        self._small = bytearray()
        self._own: BinaryIO | None = None
        self._is_closed = False

    def write(self, data: bytes) -> int:
        """Write bytes at the end."""
        if self._own is None:
            self._small += data
            if len(self._small) > _SMALL:
                self._own = self._staging.by_itself(self._name)
                self._own.write(self._small)
                self._small.clear()
            return len(data)
        return self._own.write(data)

    def flush(self) -> None:
        """Nobody reads a file before it is closed."""

    def close(self) -> None:
        """Complete the file."""
        if self._is_closed:
            return
        self._is_closed = True
        if self._own is None:
            self._staging.keep(self._name, self._small)
        else:
            self._own.close()
            self._staging.kept_by_itself(self._name)
