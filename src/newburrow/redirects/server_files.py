"""Writing the redirects for servers, beside other work where there is much of both."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from newburrow.core import csvfile, plugins, url
from newburrow.core.workers import Pool
from newburrow.decide.decisions import Redirects
from newburrow.hosts.archives import NewArchives
from newburrow.redirects.redirect_map import RedirectMap, RedirectMaps
from newburrow.redirects.rules.learnt import LearntSite
from newburrow.redirects.servers.base import Server, ServerFiles, WholeDomain
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.reader import JournalReader
from newburrow.store.redirects.exceptions import Exceptions

Open = Callable[[str], BinaryIO]
SHARED = 4000  # old addresses; with fewer, starting other processes does not pay
NOT_COVERED = "not-covered.csv"  # what is above redirects.most
_DOMAIN, _ARRIVING = "whole-domain/", "new-server/"
_TOGETHER = 2  # servers written at a time
_KEPT = "kept.sqlite"


def write_all(maps: RedirectMaps, name: str, open_file: Open, new: str) -> ServerFiles:
    """Write the redirects of all old sites for a server.

    Those of the first site go to `redirects/NAME/`, those of another to `redirects/NAME/HOST/`; in folders there, what
    sends a whole domain to the new site at `new`, and what answers there for it. `open_file` opens a file of the move
    folder for writing.
    """
    server: Server = plugins.get(plugins.SERVERS, name)
    guidance, skipped = list[str](), 0
    for redirects in maps.maps:
        folder = f"redirects/{name}/{_folder_of(redirects)}"
        said = list[str]()
        if "old-server" in redirects.choice.places:
            written = _write_for(server, redirects, open_file, folder)
            skipped += written.skipped
            said.append(written.guidance)
        said += _for_domain(server, maps, redirects, (open_file, folder), new)
        if len(maps.maps) > 1:
            guidance.append(f"For {redirects.site}, in {folder}:")
        guidance += said
    return ServerFiles("\n".join(guidance), skipped)


def _for_domain(
    server: Server, maps: RedirectMaps, redirects: RedirectMap, out: tuple[Open, str], new: str
) -> list[str]:
    """Write what sends a whole old site to the new one, and what answers there for it; gives what to do with it."""
    (open_file, folder), said = out, list[str]()
    places, origin = redirects.choice.places, url.site_of(new)
    if not redirects.site or redirects.site == url.site_key(new) or not origin:
        return said
    if "whole-domain" in places:
        domain = WholeDomain(redirects.site, origin, redirects.status)
        words = server.write_domain(domain, lambda file: open_file(f"{folder}{_DOMAIN}{file}"))
        if words:
            said.append(f"Instead, to send the whole domain, in {folder}{_DOMAIN}:\n{words}")
    if "new-server" in places:
        arriving = maps.arriving(redirects, origin)
        written = _write_for(server, arriving, open_file, f"{folder}{_ARRIVING}")
        said.append(
            f"For the new server, to which the whole domain is sent, in {folder}{_ARRIVING}:\n"
            f"{written.guidance.replace('the old address', 'the new site')}"
        )
    return said


def opener_in(folder: Path) -> Open:
    """What opens files in a folder for writing, with the folders that they are in."""

    def open_file(file: str) -> BinaryIO:
        path = folder / file
        path.parent.mkdir(parents=True, exist_ok=True)
        return path.open("wb")

    return open_file


def _folder_of(redirects: RedirectMap) -> str:
    if redirects.mark:
        return f"{redirects.site.replace(':', '-')}/"
    return ""


def _write_for(
    server: Server, redirects: RedirectMap, open_file: Open, folder: str
) -> ServerFiles:
    written = server.write(redirects, lambda file: open_file(f"{folder}{file}"))
    if not redirects.choice.most:
        return written
    rows = (
        (row.old, row.new, redirects.status_of(row), row.why) for row in redirects.left_out()
    )
    number = csvfile.write(
        open_file(f"{folder}{NOT_COVERED}"), ("old", "new", "status", "why"), rows
    )
    if not number:
        return written
    said = f"{number:,} addresses exceed redirects.most and are left out; {NOT_COVERED} lists them."
    return ServerFiles(f"{written.guidance}\n{said}", written.skipped)


@contextmanager
def writing(
    choice: Redirects,
    journal: Journal,
    open_file: Open,
    jobs: int,
    new: NewArchives,
) -> Iterator[dict[str, ServerFiles]]:
    """Write the redirects for all servers wanted, beside the body of the `with` where that pays.

    What came of each server is there when the `with` has ended. The plan must be complete.
    """
    written: dict[str, ServerFiles] = {}
    if jobs < 2 or sum(journal.urls.count().values()) < SHARED:
        maps = RedirectMaps.learnt(journal.urls.all, choice, new.samples())
        written |= {name: write_all(maps, name, open_file, new.site) for name in choice.servers}
        yield written
        return
    journal.publish()
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as folder,
        Pool(min(jobs, _TOGETHER)) as pool,
        ThreadPoolExecutor(1) as waiting,
    ):
        job = waiting.submit(_shared, pool, choice, journal.path, Path(folder), new)
        yield written
        written |= job.result()
        for path in sorted(path for path in Path(folder).rglob("*") if path.is_file()):
            name = path.relative_to(folder).as_posix()
            with path.open("rb") as made, open_file(name) as target:
                shutil.copyfileobj(made, target, 1 << 18)


def _shared(
    pool: Pool, choice: Redirects, journal: Path, folder: Path, new: NewArchives
) -> dict[str, ServerFiles]:
    """Learn the rules in one process, then write for each server in one of its own."""
    exceptions_file = folder / _KEPT
    lists = new.samples()
    sites = pool.start(_rules, journal, exceptions_file, choice, lists).result()
    jobs = {
        name: pool.start(
            _apart,
            name,
            (sites, tuple(lists)),
            choice,
            journal,
            exceptions_file,
            folder,
            new.site,
        )
        for name in choice.servers
    }
    written_by_name = {name: job.result() for name, job in jobs.items()}
    exceptions_file.unlink()
    return written_by_name


def _rules(
    journal: Path, exceptions_file: Path, choice: Redirects, new_lists: Sequence[str]
) -> tuple[LearntSite, ...]:
    with JournalReader(journal) as answers:
        maps = RedirectMaps.learnt(answers.planned_urls.all, choice, new_lists, exceptions_file)
        return maps.sites


def _apart(
    server: str,
    learnt: tuple[tuple[LearntSite, ...], tuple[str, ...]],
    choice: Redirects,
    journal: Path,
    exceptions_file: Path,
    folder: Path,
    new: str,
) -> ServerFiles:
    """Write the redirects for a server into a folder, in a process of its own."""

    open_file = opener_in(folder)
    with JournalReader(journal) as answers:
        exceptions = Exceptions(exceptions_file)
        sites, new_lists = learnt
        maps = RedirectMaps(answers.planned_urls.all, sites, exceptions, choice)
        maps.new_lists = new_lists
        return write_all(maps, server, open_file, new)
