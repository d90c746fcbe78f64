"""One file that an archive lists."""

from __future__ import annotations

from collections.abc import Callable
from typing import BinaryIO

from msgspec import Struct


class ArchiveMember(Struct, frozen=True):
    """One file that an archive lists, under the name that the archive gives it."""

    name: str
    size: int  # bytes, as the archive says
    opener: Callable[[], BinaryIO]
    address: str = ""  # that it had on the web, where the archive says it
    charset: str = ""  # the encoding that a server named with it
    not_read: str = ""  # why it is none that can be read; completes "it ..."
    target: str = ""  # of a link: the name in the archive that it leads to


class LockedMember(Exception):
    """Raised by the opener of a member that is locked with a password."""
