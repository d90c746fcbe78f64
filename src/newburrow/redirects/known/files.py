"""Old addresses that are known from elsewhere: redirects of the old site, a sitemap, a list, or a log of visits.

The form of a file is recognised by its content. A rule for many addresses answers those that are known; a note says so,
since what else it answered is in no list.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from typing import TextIO

from lxml import etree

from newburrow.core import csvfile
from newburrow.core.problem import Problem, refusal
from newburrow.core.suggestions import suggest
from newburrow.dialects.selector import local_name
from newburrow.model import Where
from newburrow.redirects.known import apache, nginx
from newburrow.redirects.known.found import Found, KnownUrl

_PEEKED = 4096
# Common Log Format, and the Combined one, which goes on after it: host ident user [time] "request" status bytes
_LOG = re.compile(
    r'\S+ \S+ .*?\[[^\]]*\] "(?P<method>[A-Z]+) (?P<target>\S+)(?: HTTP/[\d.]+)?" (?P<status>\d{3}) '
)
_NGINX = re.compile(r"^\s*(?:server|location|map|rewrite|return)\b.*[{;]\s*$", re.MULTILINE)
_APACHE = re.compile(
    r"^\s*(?:Redirect(?:Permanent|Temp|Match)?|RewriteRule|RewriteEngine|RewriteCond)\b",
    re.MULTILINE | re.IGNORECASE,
)
_COLUMNS = {
    "old": ("old", "from", "source", "address", "url", "page"),
    "new": ("new", "to", "target"),
    "visits": ("visits", "hits", "views", "count"),
}


def read(path: Path) -> Found:
    """The old addresses in a file: redirects, a sitemap, a list, a table, or an access log.

    The form is recognised by the content of the file. Yields known addresses, rules of the old server,
    and a problem for each place that cannot be read. Raises BurrowError if the file has none of these
    forms.
    """
    try:
        with csvfile.opened(path, "replace") as stream:
            start = stream.read(_PEEKED)
    except OSError as error:
        message = f"The file cannot be read: {error.strerror}."
        raise refusal(
            "unreadable", message, "Correct old.known in move.toml.", Where(str(path))
        ) from None
    if start.lstrip().startswith("<") and ("<urlset" in start or "<sitemapindex" in start):
        yield from _sitemap(path)
        return
    reader = _reader(start)
    if reader is None:
        message = (
            "This is not a sitemap, a log, a table, a list of addresses, "
            "or redirects of nginx or Apache httpd."
        )
        raise refusal(
            "unreadable",
            message,
            "Remove it of old.known in move.toml, or convert it.",
            Where(str(path)),
        )
    with csvfile.opened(path, "replace") as text:
        yield from reader(text, str(path))


def _reader(start: str) -> Callable[[TextIO, str], Found] | None:
    lines = [line.strip() for line in start.splitlines() if line.strip()]
    if any(_LOG.match(line) for line in lines[:5]):
        return _log
    if _APACHE.search(start):
        return apache.read
    if _NGINX.search(start):
        return nginx.read
    names = csvfile.columns(start)
    if len(names) > 1 and _column(names, "old"):
        return _table
    plain = [line for line in lines[:5] if not line.startswith("#")]
    if plain and all(" " not in line and line.startswith(("/", "http")) for line in plain):
        return _list
    return None


def _column(names: list[str], of: str) -> str:
    """The column of a table that has this fact."""
    return next((name for name in names if name in _COLUMNS[of]), "")


def _sitemap(path: Path) -> Found:
    try:
        for _event, element in etree.iterparse(
            str(path), tag="{*}loc", resolve_entities=False, no_network=True, load_dtd=False
        ):
            if element.text and local_name(element.getparent().tag) == "url":
                yield KnownUrl(element.text.strip())
            element.clear()
    except etree.XMLSyntaxError as error:
        message = f"The sitemap is not well-formed: {error.msg}."
        yield Problem.at(
            Where(str(path), error.lineno or 0),
            "known-file",
            message=message,
            advice="Fetch it again.",
        )


def _log(text: TextIO, file: str) -> Found:
    """Each visit of a page that was there or sent on; lines that are none are counted."""
    broken, first = 0, 0
    for number, line in enumerate(text, 1):
        found = _LOG.match(line)
        if found is None:
            broken += bool(line.strip())
            first = first or number * bool(line.strip())
        elif found["method"] in ("GET", "HEAD") and found["status"][0] in "23":
            yield KnownUrl(found["target"], visits=1)
    if broken:
        message = (
            f"{broken:,} lines of the log are in neither the Common nor the Combined Log Format; "
            f"the first is line {first}."
        )
        yield Problem.at(Where(file, first), "known-skipped", message=message)


def _list(text: TextIO, _file: str) -> Found:
    for line in text:
        if line.strip() and not line.startswith("#"):
            yield KnownUrl(line.strip())


def _table(text: TextIO, file: str) -> Found:
    table = csvfile.CsvTable(text)
    names = {name.lower(): name for name in table.names}
    column = {of: names.get(_column(list(names), of), "") for of in _COLUMNS}
    for cells in table:
        row = dict(zip(table.names, cells, strict=False))
        old = (row.get(column["old"]) or "").strip()
        if column["visits"]:
            visits = (row.get(column["visits"]) or "").strip().replace(",", "")
        else:
            visits = ""
        if not old:
            continue
        if visits and not visits.isdigit():
            advice = suggest(column["visits"], list(names), "The columns are")
            where = Where(file, table.line)
            yield Problem.at(
                where,
                "known-file",
                message=f"{visits!r} is not a number of visits.",
                advice=advice,
            )
            visits = ""
        yield KnownUrl(
            old,
            (row.get(column["new"]) or "").strip() if column["new"] else "",
            int(visits or 0),
        )
