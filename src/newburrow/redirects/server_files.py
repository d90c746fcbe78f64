"""Writing the redirects for servers, beside other work where there is much of both."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from newburrow.core import plugins
from newburrow.core.workers import Pool
from newburrow.decide.decisions import Redirects
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.redirects.servers.base import Server, ServerFiles
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.reader import JournalReader
from newburrow.store.journal.rows import OldAddress
from newburrow.store.redirects.exceptions import Exceptions

Open = Callable[[str], BinaryIO]
SHARED = 4000  # old addresses; with fewer, starting other processes does not pay
_TOGETHER = 2  # servers written at a time
_KEPT = "kept.sqlite"


def write(
    choice: Redirects, open_file: Open, answers: Callable[[], Iterator[OldAddress]]
) -> dict[str, ServerFiles]:
    """Write the redirects for each chosen server below `redirects/NAME/`.

    `open_file` opens a file of the move folder for writing. `answers` gives all answers, any number of
    times. The rules are learnt once and shared. Gives the files of each server by its name.
    """
    redirects = RedirectMap.learnt(answers, choice.status)
    return {name: _write_for(name, redirects, open_file) for name in choice.servers}


def _write_for(name: str, redirects: RedirectMap, open_file: Open) -> ServerFiles:
    server: Server = plugins.get(plugins.SERVERS, name)
    return server.write(redirects, lambda file: open_file(f"redirects/{name}/{file}"))


@contextmanager
def writing(
    choice: Redirects, journal: Journal, open_file: Open, jobs: int
) -> Iterator[dict[str, ServerFiles]]:
    """Write the redirects for all servers wanted, beside the body of the `with` where that pays.

    What came of each server is there when the `with` has ended. The plan must be complete.
    """
    written: dict[str, ServerFiles] = {}
    if jobs < 2 or sum(journal.urls.count().values()) < SHARED:
        written |= write(choice, open_file, journal.urls.all)
        yield written
        return
    journal.publish()
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as folder,
        Pool(min(jobs, _TOGETHER)) as pool,
        ThreadPoolExecutor(1) as waiting,
    ):
        job = waiting.submit(_shared, pool, choice, journal.path, Path(folder))
        yield written
        written |= job.result()
        for path in sorted(path for path in Path(folder).rglob("*") if path.is_file()):
            name = path.relative_to(folder).as_posix()
            with path.open("rb") as made, open_file(name) as target:
                shutil.copyfileobj(made, target, 1 << 18)


def _shared(
    pool: Pool, choice: Redirects, journal: Path, folder: Path
) -> dict[str, ServerFiles]:
    """Learn the rules in one process, then write for each server in one of its own."""
    exceptions_file = folder / _KEPT
    rules, site = pool.start(_rules, journal, exceptions_file).result()
    jobs = {
        name: pool.start(
            _apart, name, rules, site, choice.status, journal, exceptions_file, folder
        )
        for name in choice.servers
    }
    written_by_name = {name: job.result() for name, job in jobs.items()}
    exceptions_file.unlink()
    return written_by_name


def _rules(journal: Path, exceptions_file: Path) -> tuple[tuple[RedirectRule, ...], str]:
    with JournalReader(journal) as answers:
        learnt = RedirectMap.learnt(answers.planned_urls.all)
        learnt.keep(exceptions_file)
        return learnt.rules, learnt.site


def _apart(
    server: str,
    rules: tuple[RedirectRule, ...],
    site: str,
    status: int,
    journal: Path,
    exceptions_file: Path,
    folder: Path,
) -> ServerFiles:
    """Write the redirects for a server into a folder, in a process of its own."""

    def open_file(file: str) -> BinaryIO:
        path = folder / file
        path.parent.mkdir(parents=True, exist_ok=True)
        return path.open("wb")

    with JournalReader(journal) as answers:
        return _write_for(
            server,
            RedirectMap(
                answers.planned_urls.all, rules, site, status, Exceptions(exceptions_file)
            ),
            open_file,
        )
