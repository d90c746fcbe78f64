"""What a redirect server is. To add one: a module here with an instance, named under `newburrow.servers`."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import BinaryIO, Protocol

from newburrow.journal import OldAddress

Answers = Callable[[], Iterable[OldAddress]]  # gives all answers anew each time, in a stable order
Open = Callable[[str], BinaryIO]


class Server(Protocol):
    """A web server, and how its redirects are written."""

    name: str
    title: str

    def write(self, answers: Answers, open_file: Open) -> str:
        """Write the server's files through `open_file`; says in plain lines what to do with them."""
        ...
