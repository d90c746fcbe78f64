"""Pages that forward by themselves, for an old host that takes files and nothing else.

Each is where the old address leads: it names the new page as the one that counts (RFC 6596), goes there at once
(HTML standard, the refresh state of `meta`), and has a link to click on.
"""

from __future__ import annotations

import html
from typing import BinaryIO

from newburrow.core import url
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.server_key import key_of, shown
from newburrow.redirects.servers.base import Open, Server, ServerFiles
from newburrow.store.journal.rows import REDIRECTED, OldAddress

_LIST = "not-written.txt"
_LONGEST = 200  # bytes of a file name
_PAGE = """<!doctype html>
<html lang="en">
<meta charset="utf-8">
<title>This page has moved</title>
<link rel="canonical" href="{at}">
<meta http-equiv="refresh" content="0; url={at}">
<p>This page has moved to <a href="{at}">{shown}</a>.</p>
</html>
"""


class Pages(Server):
    """A folder of pages."""

    name = "pages"
    title = "pages that forward by themselves"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """A page for each old address that is redirected."""
        skipped = 0
        with open_file(_LIST) as left:
            for row in redirects.answers():
                if row.status == REDIRECTED and not _page(row, open_file):
                    skipped += 1
                    left.write(f"{shown(row.old)}\n".encode())
        return ServerFiles(
            "Copy the pages to the top folder of the old site; each stands where its old address leads. What is gone "
            "has none."
            + (
                f"\n{skipped:,} addresses can have no page; {_LIST} lists them."
                if skipped
                else ""
            ),
            skipped,
        )


SERVER = Pages()


def _page(row: OldAddress, open_file: Open) -> bool:
    """Write the page for one address; whether that could be done."""
    name = _file(row)
    if name:
        stream = _opened(name, open_file)
    else:
        stream = None
    if stream is None:
        return False
    at = html.escape(url.safe(row.new))
    with stream:
        stream.write(
            _PAGE.format(at=at, shown=html.escape(shown(row.new), quote=False)).encode()
        )
    return True


def _file(row: OldAddress) -> str:
    """The file that a host shows for an address; empty where there can be none."""
    key = key_of(row)
    if key is None or key.pairs:
        return ""
    try:
        path = key.path.decode("utf-8").strip("/")
    except UnicodeDecodeError:
        return ""
    last = path.rpartition("/")[2]
    if "." in last and not key.path.endswith(b"/"):
        name = path
    else:
        name = f"{path}/index.html".lstrip("/")
    parts = name.split("/")
    fits = all(
        part not in ("", ".", "..") and len(part.encode()) <= _LONGEST and part.isprintable()
        for part in parts
    )
    if fits and "\\" not in name and name != _LIST:
        return name
    return ""


def _opened(name: str, open_file: Open) -> BinaryIO | None:
    try:
        return open_file(f"site/{name}")
    except OSError:  # there is a file where this one needs a folder
        return None
