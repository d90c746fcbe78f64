"""Opening what lies at a path: a folder, an archive or a single file, seen alike as a list of parts.

Nothing is ever unpacked under a name that an export gives, so a name cannot lead out of a folder.
"""

from __future__ import annotations

import os
import stat
from pathlib import Path
from typing import BinaryIO

from msgspec.structs import replace

from newburrow.core.problem import refusal
from newburrow.core.suggestions import nearest
from newburrow.intake import archives, page_frames, saved_pages
from newburrow.intake.budget import USUAL, Budget, ReadingLimits
from newburrow.intake.links import link_target
from newburrow.intake.part import Contents, LeftOut, Part, junk, reason
from newburrow.intake.source import Source
from newburrow.model.record import Where


def open_source(path: Path, limits: ReadingLimits = USUAL) -> Source:
    """What lies at a path, as a source that can be read more than once.

    The path is a file, a folder or an archive. Raises BurrowError if there is nothing at the path, the file
    is empty or an archive that is not read here, it may not be read, or it costs more than the limits allow;
    the advice names files with a similar name.
    """
    budget = Budget(limits, path.name)
    try:
        if path.is_dir():
            found = _in_folder(path, budget)
        else:
            found = _in_file(path, budget)
        found = archives.with_one_web_archive(found, budget)
        found = page_frames.left_out(saved_pages.opened(found, budget))
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
    source = Source(path, found.parts, budget, found.left_out, found.answers, found.united)
    return replace(source, opened=source.stamp())


def _in_file(path: Path, budget: Budget) -> Contents:
    """The files of an archive, or the one file."""
    part = _file(path, path.name, path.name, budget)
    if part.size == 0:
        raise refusal(
            "empty-file",
            "The file is empty.",
            "Download the export again; a download that was broken off often leaves an empty file.",
            Where(str(path)),
        )
    with part.open() as stream:
        start = stream.read(512)
    if unsupported := archives.unsupported_kind(start):
        raise refusal(
            "unsupported-archive",
            f"This is a {unsupported} archive, which is not read here.",
            "Unpack it and hand in the folder.",
            Where(str(path)),
        )
    if kind := archives.kind_of(start):
        return archives.unpacked(part, kind, budget)
    return Contents((part,))


def _file(path: Path, name: str, label: str, budget: Budget) -> Part:
    def opener() -> BinaryIO:
        return path.open("rb")

    facts = path.stat()
    if not stat.S_ISREG(facts.st_mode):
        raise refusal(
            "unreadable",
            f"{str(path)!r} is not a file but a device or a pipe.",
            "Save what it gives as a file and hand that in.",
        )
    # what a file takes on the disk; one with holes in it is longer
    budget.packed(min(facts.st_size, facts.st_blocks * 512 or facts.st_size))
    return Part(name, facts.st_size, label, opener, seek=opener, meter=budget.meter(label))


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


def _in_folder(folder: Path, budget: Budget) -> Contents:
    """The files of a folder and those below it. A folder that may not be read stands in for what is in it."""
    found: list[Part] = []
    left_out: list[LeftOut] = []

    def unreadable(error: OSError) -> None:
        """Raises the error for the folder itself; one below it is listed as a file that cannot be opened."""
        below = Path(str(error.filename)).relative_to(folder).as_posix()
        if below == ".":
            raise error

        def opener() -> BinaryIO:
            raise error

        found.append(Part(below, 0, f"{folder.name}/{below}", opener))

    for place, folders, names in os.walk(folder, onerror=unreadable):
        links = [name for name in folders if Path(place, name).is_symlink()]
        for file in (*names, *links):
            path = Path(place, file)
            name = path.relative_to(folder).as_posix()
            label = f"{folder.name}/{name}"
            budget.file(label)
            if path.is_symlink():
                target = link_target(name, path.readlink().as_posix())
            else:
                target = ""
            if target:
                left_out.append(LeftOut(name, label, f"is a link to {target}", target))
            elif why := _not_read(path) or junk(name):
                left_out.append(LeftOut(name, label, why))
            else:
                found.append(_file(path, name, label, budget))
    found.sort(key=lambda part: part.name)
    left_out.sort(key=lambda file: file.name)
    return Contents(tuple(found), tuple(left_out))


def _not_read(path: Path) -> str:
    if path.is_symlink():
        return "is a link, which may lead anywhere on this machine"
    if not path.is_file():
        return "is not a file but a device or a pipe"
    return ""
