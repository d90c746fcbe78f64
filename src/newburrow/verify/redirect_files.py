"""Whether the files for servers say what `addresses.csv` says: they are written again, and held against those there."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import suppress
from filecmp import cmp
from pathlib import Path

from newburrow.core import plugins
from newburrow.core.problem import BurrowError
from newburrow.decide.decisions import Redirects
from newburrow.hosts.archives import NewArchives
from newburrow.redirects import server_files, table
from newburrow.redirects.redirect_map import RedirectMaps
from newburrow.store.redirects.spooled_answers import SpooledAnswers
from newburrow.verify.difference import Difference


def differences(folder: Path, choice: Redirects, archives: NewArchives) -> list[Difference]:
    """The files of servers in a move folder that are not as they would be written now.

    A table that cannot be read is a difference of its own, which `address_check` gives.
    """
    known = plugins.names(plugins.SERVERS)
    servers = [name for name in known if (folder / "redirects" / name).is_dir()]
    if not servers:
        return []
    with suppress(BurrowError), tempfile.TemporaryDirectory(prefix="newburrow-") as name:
        again = Path(name)
        open_file = server_files.opener_in(again)
        addresses = folder / "redirects/addresses.csv"
        with SpooledAnswers(lambda: table.read(addresses)) as answers:
            maps = RedirectMaps.learnt(answers, choice, archives.samples())
            for server in servers:
                server_files.write_all(maps, server, open_file, archives.site)
        return [
            difference for server in servers for difference in _unlike(folder, again, server)
        ]
    return []


def _unlike(folder: Path, again: Path, server: str) -> Iterator[Difference]:
    """The files of one server that differ from those that were written again."""
    place = Path("redirects") / server
    expected, found = _files(again / place), _files(folder / place)
    as_written = f"as `newburrow redirects FOLDER --for {server}` writes it"
    for name in sorted(expected | found):
        file = (place / name).as_posix()
        if name not in found:
            yield Difference("redirects", file, "", "missing", as_written, "")
        elif name not in expected:
            yield Difference("redirects", file, "", "added", "", "a file")
        elif not cmp(again / file, folder / file, shallow=False):
            yield Difference("redirects", file, "", "content", as_written, "other content")


def _files(folder: Path) -> set[str]:
    return {path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file()}
