"""Old addresses that are known from elsewhere: redirects of the old site, a sitemap, a list, or a log of visits.

The form of a file is recognised by its content. A rule for many addresses answers those that are known; a note says so,
since what else it answered is in no list.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TextIO

from lxml import etree
from msgspec import Struct

from newburrow.core import csvfile
from newburrow.core.problem import Problem, refusal
from newburrow.core.suggestions import suggest
from newburrow.dialects.selector import local_name
from newburrow.model import Where

_PEEKED = 4096
# Common Log Format, and the Combined one, which goes on after it: host ident user [time] "request" status bytes
_LOG = re.compile(
    r'\S+ \S+ .*?\[[^\]]*\] "(?P<method>[A-Z]+) (?P<target>\S+)(?: HTTP/[\d.]+)?" (?P<status>\d{3}) '
)
_NGINX = re.compile(r"^\s*(?:server|location|map|rewrite|return)\b.*[{;]\s*$", re.MULTILINE)
_LOCATION = re.compile(
    r"location\s+=\s+(?P<old>\"[^\"]*\"|\S+)\s*\{\s*return\s+30[18]\s+(?P<new>[^;\s]+)\s*;\s*\}"
)
_REWRITE = re.compile(r"rewrite\s+(?P<old>\S+)\s+(?P<new>\S+)\s+permanent\s*;")
_MAPS = re.compile(r"map\s+\S+\s+\S+\s*\{(?P<lines>[^}]*)\}")
_MAP_LINE = re.compile(r"(?P<old>\"[^\"]*\"|[^\s;]+)\s+(?P<new>\"[^\"]*\"|[^\s;]+)\s*;")
_APACHE = re.compile(
    r"^\s*(?:Redirect(?:Permanent|Match)?|RewriteRule|RewriteEngine)\b",
    re.MULTILINE | re.IGNORECASE,
)
_REDIRECT = re.compile(
    r"^\s*Redirect(?:Permanent\s+|\s+(?:30[18]|permanent)\s+)(?P<old>\S+)\s+(?P<new>\S+)\s*$",
    re.I,
)
_RULE = re.compile(
    r"^\s*RewriteRule\s+(?P<old>\S+)\s+(?P<new>\S+)\s+\[[^\]]*R=30[18][^\]]*\]", re.I
)
_MATCH = re.compile(
    r"^\s*RedirectMatch\s+(?:(?:30[18]|permanent)\s+)?(?P<old>\S+)\s+(?P<new>\S+)", re.I
)
_PLAIN = re.compile(r"\^?/?(?P<path>(?:[\w/~%=&;:@,+-]|\\?\.|\\-)*)\$?")
_COLUMNS = {
    "old": ("old", "from", "source", "address", "url", "page"),
    "new": ("new", "to", "target"),
    "visits": ("visits", "hits", "views", "count"),
}


class KnownUrl(Struct, frozen=True):
    """An old address."""

    address: str  # whole, or from the site on
    target: str = ""  # where the old site sends it
    visits: int = 0


class OldRule(Struct, frozen=True):
    """A rule of the old site for many addresses."""

    old: str  # an expression for the path
    new: str  # with $1 or \\1 for its groups


Found = Iterator[KnownUrl | OldRule | Problem]


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
        return _apache
    if _NGINX.search(start):
        return _nginx
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


def _nginx(text: TextIO, file: str) -> Found:
    uncommented = re.sub(r"(?m)^\s*#.*$", "", text.read())  # a configuration is small
    for found in _LOCATION.finditer(uncommented):
        yield KnownUrl(_unquoted(found["old"]), _unquoted(found["new"]))
    for found in _REWRITE.finditer(uncommented):
        yield from _of_pattern(
            found["old"],
            found["new"],
            Where(file, uncommented.count("\n", 0, found.start()) + 1),
        )
    for match in _MAPS.finditer(uncommented):
        for found in _MAP_LINE.finditer(match["lines"]):
            old, new = _unquoted(found["old"]), _unquoted(found["new"])
            if old.startswith("/") and new.startswith(("/", "http")):
                yield KnownUrl(old, new)


def _apache(text: TextIO, file: str) -> Found:
    for number, line in enumerate(text, 1):
        where = Where(file, number)
        if found := _REDIRECT.match(line):
            yield KnownUrl(_unquoted(found["old"]), _unquoted(found["new"]))
        elif found := _RULE.match(line) or _MATCH.match(line):
            yield from _of_pattern(found["old"], found["new"], where)


def _of_pattern(old: str, new: str, where: Where) -> Found:
    """A rule whose expression is for one address alone; any other is reported."""
    found = _PLAIN.fullmatch(_unquoted(old))
    if found and "$" not in new and "\\1" not in new:
        yield KnownUrl("/" + found["path"].replace("\\", ""), _unquoted(new))
    else:
        yield OldRule(_unquoted(old), _unquoted(new))
        message = (
            f"The old site has a rule for many addresses: {_unquoted(old)} → {_unquoted(new)}."
        )
        advice = (
            "It was used for the old addresses that are known. For more, hand in a log or a list of what is visited "
            "(old.known in move.toml), or keep the rule on the old server."
        )
        yield Problem.at(where, "old-rule", message=message, advice=advice)


def _unquoted(word: str) -> str:
    if len(word) > 1 and word[0] == word[-1] and word[0] in "\"'":
        return word[1:-1]
    return word
