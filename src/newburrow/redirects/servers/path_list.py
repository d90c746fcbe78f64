"""Plain lists of old and new paths, for a host or a program that takes no rules: with blanks, as CSV and with tabs.

Each line is for one old address. Paths and queries are percent-encoded (RFC 3986), so that no blank, tab, comma or
quote is in them. A new address on another site than the first is written whole.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import BinaryIO

from newburrow.core import url
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.server_key import shown
from newburrow.redirects.servers.base import Open, Server, ServerFiles
from newburrow.store.journal.rows import REDIRECTED, OldAddress

_LIST = "not-written.txt"
_FILES = {"paths.txt": " ", "paths.csv": ",", "paths.tsv": "\t"}
_ENCODED = str.maketrans({",": "%2C"})


class PathList(Server):
    """The same list in three files."""

    name = "paths"
    title = "a plain list of old and new paths"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """Write what is redirected; what is gone cannot be said in such a list."""
        for name, separator in _FILES.items():
            with open_file(name) as stream:
                if separator != " ":
                    stream.write(f"old{separator}new\n".encode())
                for old, new in _pairs(redirects):
                    stream.write(f"{old}{separator}{new}\n".encode())
        with open_file(_LIST) as left:
            skipped = _write_left(redirects, left)
        return ServerFiles(
            "Hand in paths.txt (a blank between old and new), paths.csv or paths.tsv, as the host wants it."
            + (f"\n{skipped:,} addresses are gone; {_LIST} lists them." if skipped else ""),
            skipped,
        )


SERVER = PathList()


def _write_left(redirects: RedirectMap, left: BinaryIO) -> int:
    skipped = 0
    for row in redirects.answers():
        if row.status not in (REDIRECTED, 200):
            skipped += 1
            left.write(f"{shown(row.old)}\n".encode())
    return skipped


def _pairs(redirects: RedirectMap) -> Iterator[tuple[str, str]]:
    new_site = ""
    for row in redirects.answers():
        if row.status == REDIRECTED:
            new_site = new_site or row.new_key.partition("/")[0]
            yield _path(row.old), _new(row, new_site)


def _new(row: OldAddress, new_site: str) -> str:
    if row.new_key.partition("/")[0] == new_site:
        return _path(row.new)
    return url.safe(row.new).translate(_ENCODED)


def _path(address: str) -> str:
    parts = url.split(address)
    assert parts is not None
    path = parts._replace(scheme="", netloc="").geturl()
    path = path if path.startswith("/") else f"/{path}"
    return url.safe(path).translate(_ENCODED)
