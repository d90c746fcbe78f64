"""Opening what lies at a path: a folder, an archive or a single file, seen alike as a list of parts.

Nothing is ever unpacked under a name that an export gives, so a name cannot lead out of a folder.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from newburrow.core.problem import refusal
from newburrow.core.suggestions import nearest
from newburrow.intake import archives
from newburrow.intake.part import Part, reason
from newburrow.intake.source import Source
from newburrow.model.record import Where


def open_source(path: Path) -> Source:
    """What lies at a path, as a source that can be read more than once.

    The path is a file, a folder or an archive. Raises BurrowError if there is nothing at the path, the file
    is empty, or it may not be read; the advice names files with a similar name.
    """
    try:
        if path.is_dir():
            return Source(path, tuple(_in_folder(path)))
        part = _file(path, path.name, path.name)
        if part.size == 0:
            raise refusal(
                "empty-file",
                "The file is empty.",
                "Download the export again; a download that was broken off often leaves an empty file.",
                Where(str(path)),
            )
        with part.open() as stream:
            kind = archives.kind_of(stream.read(512))
        return Source(path, tuple(archives.unpacked(part, kind)) if kind else (part,))
    except FileNotFoundError:
        raise refusal(
            "no-such-file", f"There is no file or folder {str(path)!r}.", _neighbours(path)
        ) from None
    except OSError as error:
        raise refusal(
            "unreadable",
            f"{str(path)!r} cannot be read: {reason(error)}.",
            "Check the permissions of the file.",
        ) from None


def _file(path: Path, name: str, label: str) -> Part:
    def opener() -> BinaryIO:
        return path.open("rb")

    return Part(name, path.stat().st_size, label, opener, seek=opener)


def _neighbours(path: Path) -> str:
    try:
        near = nearest(path.name, [other.name for other in path.parent.iterdir()])
    except OSError:
        return (
            f"There is no folder {str(path.parent)!r} either; check the spelling of the path."
        )
    if near:
        return (
            "Did you mean " + " or ".join(repr(str(path.parent / name)) for name in near) + "?"
        )
    return "Check the spelling of the path."


def _in_folder(folder: Path) -> Iterator[Part]:
    for path in sorted(folder.rglob("*"), key=lambda p: p.relative_to(folder).as_posix()):
        name = path.relative_to(folder).as_posix()
        if path.is_symlink() or not path.is_file() or archives.is_junk(name):
            continue  # a link may lead anywhere on this machine
        yield _file(path, name, f"{folder.name}/{name}")
