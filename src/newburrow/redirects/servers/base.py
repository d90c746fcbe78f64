"""What a redirect server is. To add one: a module here with an instance, named under `newburrow.servers`."""

from __future__ import annotations

from collections.abc import Callable
from typing import BinaryIO, Protocol

from msgspec import Struct

from newburrow.redirects.redirect_map import RedirectMap

Open = Callable[[str], BinaryIO]


class ServerFiles(Struct, frozen=True):
    """What came of writing for one server."""

    guidance: str  # in plain lines, what to do with the files
    skipped: int = 0  # old addresses that this server cannot express


class WholeDomain(Struct, frozen=True):
    """An old site that is sent to a new one as a whole."""

    site: str  # the old one, as `url.site_key`
    new: str  # scheme and host
    status: int


class Server(Protocol):
    """A web server, and how its redirects are written."""

    name: str
    title: str
    # whether its rules can convert to lowercase; then it writes `redirects.lowering()`
    lowers: bool = False

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """Write the server's files through `open_file`: the exceptions, and after them the rules.

        What is skipped must be listed in one of the files.
        """
        ...

    def write_domain(self, domain: WholeDomain, open_file: Open) -> str:
        """Write what sends a whole old site to a new one, each path to the same path there.

        Gives what to do with the file; empty for a server that has no such thing.
        """
        return ""
