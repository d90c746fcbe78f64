"""Writing the redirects for servers, beside other work where there is much of both."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from newburrow import registry
from newburrow.convert.noting import NotingJournal
from newburrow.journal import Journal, OldAddress
from newburrow.processes import workers
from newburrow.redirects.base import Server, Written

Open = Callable[[str], BinaryIO]


def write(name: str, open_file: Open, answers: Callable[[], Iterator[OldAddress]]) -> Written:
    """Write the redirects for one server, below `redirects/NAME/`."""
    server: Server = registry.get(registry.SERVERS, name)
    return server.write(answers, lambda file: open_file(f"redirects/{name}/{file}"))


@contextmanager
def writing(servers: Sequence[str], journal: Journal, open_file: Open, beside: bool) -> Iterator[dict[str, Written]]:
    """Write the redirects for these servers, `beside` the body of the `with` where that is said.

    What came of each server is there when the `with` has ended. Nothing is planned any more.
    """
    told: dict[str, Written] = {}
    if not beside:
        told |= {name: write(name, open_file, journal.addresses) for name in servers}
        yield told
        return
    journal.planned()
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as folder,
        workers(1) as pool,
    ):
        jobs = {name: pool.submit(_apart, name, journal.path, Path(folder)) for name in servers}
        yield told
        told |= {name: job.result() for name, job in jobs.items()}
        for path in sorted(one for one in Path(folder).rglob("*") if one.is_file()):
            with path.open("rb") as made, open_file(path.relative_to(folder).as_posix()) as target:
                shutil.copyfileobj(made, target, 1 << 18)


def _apart(name: str, journal: Path, folder: Path) -> Written:
    """Write the redirects for one server into a folder, in a process of its own."""

    def open_file(file: str) -> BinaryIO:
        path = folder / file
        path.parent.mkdir(parents=True, exist_ok=True)
        return path.open("wb")

    with NotingJournal(journal) as answers:
        return write(name, open_file, answers.addresses)
