"""What is in a tar (POSIX.1-1988 to 2001), in order of the names."""

from __future__ import annotations

import tarfile
from collections.abc import Callable, Iterator
from typing import BinaryIO, cast

from newburrow.intake.archive_member import ArchiveMember
from newburrow.intake.held_file import HeldFile
from newburrow.intake.links import link_target

_MARK = slice(257, 262)  # in the first block


def is_tar(start: bytes) -> bool:
    """Whether the first 512 bytes are those of a tar."""
    return start[_MARK] == b"ustar"


def members(held: HeldFile, count: Callable[[], None]) -> Iterator[ArchiveMember]:
    """The files of a tar; links and devices are listed as such.

    `count` is called for each as it is met. Raises tarfile.TarError where the tar is damaged.
    """
    archive = tarfile.TarFile(fileobj=held.file)
    found = []
    for member in archive:
        count()
        if not member.isdir():
            found.append(member)
    for member in sorted(found, key=lambda member: member.name):

        def opener(member: tarfile.TarInfo = member, _held: HeldFile = held) -> BinaryIO:
            return cast(BinaryIO, archive.extractfile(member))

        name = member.name.removeprefix("./")
        yield ArchiveMember(
            name,
            member.size,
            opener,
            target=_target(name, member),
            not_read=_not_a_file(member),
        )


def _target(name: str, member: tarfile.TarInfo) -> str:
    """The name that a link leads to; that of a hard link is one from the top of the archive."""
    if member.issym():
        return link_target(name, member.linkname)
    if member.islnk():
        return link_target("", member.linkname)
    return ""


def _not_a_file(member: tarfile.TarInfo) -> str:
    if member.issym() or member.islnk():
        return "is a link to another file"
    if not member.isfile():
        return "is not a file but a device or a pipe"
    return ""
