"""One thing that the administrator handed in: where it is, and the files in it."""

from __future__ import annotations

import hashlib
from functools import lru_cache
from pathlib import Path
from typing import BinaryIO

from msgspec import Struct

from newburrow.core.problem import BurrowError
from newburrow.intake.budget import Budget
from newburrow.intake.part import UNREADABLE, LeftOut, Part
from newburrow.intake.web_answer import WebAnswer


class Source(Struct, frozen=True):
    """One thing that the administrator handed in, with all the files in it."""

    path: Path
    parts: tuple[Part, ...]
    budget: Budget
    left_out: tuple[LeftOut, ...] = ()
    answers: tuple[WebAnswer, ...] = ()  # of a web archive
    united: tuple[
        str, ...
    ] = ()  # names of files on the disk that are no parts, but went into them
    opened: str = ""  # its stamp when it was opened

    def stamp(self) -> str:
        """A digest of names, sizes and times of change on the disk; it differs when a file was changed or added."""
        digest = hashlib.blake2b()
        names = [self.path]
        if self.path.is_dir():
            files = [self.path / part.name for part in self.parts]
            files += [self.path / name for name in self.united]
            folders = {folder for file in files for folder in file.parents}
            names += [folder for folder in folders if self.path in folder.parents] + files
            names.sort()
        for name in names:
            try:
                facts = name.stat()
                mark = f"{facts.st_ino} {facts.st_size} {facts.st_mtime_ns}"
            except OSError as error:
                mark = str(error.errno)
            digest.update(f"{name}\0{mark}\0".encode("utf-8", "surrogateescape"))
        return digest.hexdigest()

    def fingerprint(self) -> str:
        """A digest that changes with the content (BLAKE2b, RFC 7693, hexadecimal), without unpacking an archive."""
        if self.path.is_file():
            facts = self.path.stat()
            return _digest_of(
                self.path.resolve(), facts.st_ino, facts.st_size, facts.st_mtime_ns
            )
        digest = hashlib.blake2b()
        for part in self.parts:
            digest.update(f"{part.name}\0{part.size}\0".encode("utf-8", "surrogateescape"))
            try:
                with part.open() as stream:
                    _take(stream, digest)
            except BurrowError as error:
                if error.problem.code not in UNREADABLE:
                    raise
                digest.update(error.problem.message.encode())
        return digest.hexdigest()


@lru_cache(maxsize=256)  # a move that creates its folder first asks twice
def _digest_of(path: Path, _inode: int, _size: int, _changed: int) -> str:
    """The digest of a file, which in one run is read once unless it changed meanwhile."""
    digest = hashlib.blake2b()
    with path.open("rb") as stream:
        _take(stream, digest)
    return digest.hexdigest()


def _take(stream: BinaryIO, digest: hashlib.blake2b) -> None:
    while block := stream.read(1 << 20):
        digest.update(block)
