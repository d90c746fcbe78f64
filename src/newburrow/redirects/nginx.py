"""nginx: two maps, from path and from path with one parameter, and a server snippet that uses them.

A map takes 100,000 addresses in a moment where as many exact locations take nginx minutes. Its keys are
compared with the decoded, normalised path (`$uri`) without regard to letter case; an address that
differs from another only in case is written as a regular expression, which does regard it.

An address from an export can hold anything. Keys are quoted byte by byte, targets are percent-encoded,
and an address that nginx could never see (a NUL) is left out.
"""

from __future__ import annotations

import re
import sqlite3
from collections import Counter
from collections.abc import Iterator
from typing import BinaryIO
from urllib.parse import unquote_to_bytes

from msgspec import Struct

from newburrow import address
from newburrow.journal import GONE, UNCHANGED, OldAddress
from newburrow.redirects.base import Answers, Open, Written

_MAPS, _SERVER = "newburrow-maps.conf", "newburrow-server.conf"
_GONE = "gone"
_LONGEST = 4000  # bytes of a word in a configuration file; nginx stops at 4,096
_PARAMETER = re.compile(r"[a-z0-9_]+\Z")  # what nginx can name as $arg_...
_ESCAPES = {ord('"'): '\\"', ord("\\"): "\\\\", ord("\n"): "\\n", ord("\r"): "\\r", ord("\t"): "\\t"}


class _Rule(Struct, frozen=True):
    """One line of a map."""

    path: bytes  # decoded, as nginx compares it
    parameter: str  # name of the query parameter; empty for a rule by path alone
    value: str  # of the parameter, as it is written in the address
    target: str  # a URL, or _GONE


class Nginx:
    """nginx 1.18 and later."""

    name = "nginx"
    title = "nginx"

    def write(self, answers: Answers, open_file: Open) -> Written:
        """One file for the http block, one for the server block."""
        plan = _Plan(answers)
        with open_file(_MAPS) as stream:
            skipped = _write_maps(stream, plan)
        with open_file(_SERVER) as stream:
            stream.write(_server(plan).encode())
        return Written(
            f"Put both files into nginx's folder. Then add `include {_MAPS};` to the http block and\n"
            f"`include {_SERVER};` at the top of the server block of the old address.\n"
            "Check with `nginx -t`, then reload."
            + (f"\n{skipped:,} addresses cannot be told to nginx; {_MAPS} lists them at its end." if skipped else ""),
            skipped,
        )


SERVER = Nginx()


class _Plan:
    """What must be known before the first line is written, gathered in one pass."""

    def __init__(self, answers: Answers) -> None:
        self.answers = answers
        self.longest = self.count = 0
        self.parameters: set[str] = set()
        # Where letter case matters is known only when all addresses were seen; SQLite keeps them off the memory.
        self._db = sqlite3.connect("")
        self._db.execute("CREATE TABLE old (folded BLOB PRIMARY KEY, count INTEGER) WITHOUT ROWID")
        self._db.execute("CREATE TABLE new (folded BLOB PRIMARY KEY) WITHOUT ROWID")
        hosts: Counter[str] = Counter()
        for row in answers():
            hosts[_host(row.old)] += 1
            rule = _rule(row)
            if rule:
                self._note(row, rule)
        self.host = min(hosts, key=lambda name: (-hosts[name], name)) if hosts else ""

    def _note(self, row: OldAddress, rule: _Rule) -> None:
        self._db.execute(
            "INSERT INTO old VALUES (?, 1) ON CONFLICT DO UPDATE SET count = count + 1", (_raw(rule).lower(),)
        )
        if row.new and _host(row.new) == _host(row.old):
            self._db.execute("INSERT OR IGNORE INTO new VALUES (?)", (_path(row.new).lower(),))
        if row.status != UNCHANGED:
            self.count += 1
            self.longest = max(self.longest, len(_raw(rule)))
            if rule.parameter:
                self.parameters.add(rule.parameter)

    def lines(self, parameter: str) -> Iterator[bytes]:
        """The lines of one map."""
        for row in self.answers():
            rule = _rule(row) if row.status != UNCHANGED else None
            if rule and rule.parameter == parameter and (line := self._line(row, rule)):
                yield line

    def skipped(self) -> Iterator[str]:
        """Old addresses that this server cannot answer."""
        for row in self.answers():
            rule = _rule(row)
            if row.status != UNCHANGED and (rule is None or not self._line(row, rule)):
                yield row.old

    def _line(self, row: OldAddress, rule: _Rule) -> bytes:
        """A rule as nginx reads it; empty for one of another host, or too long for a configuration file."""
        raw = _raw(rule)
        key = _quoted(_pattern(raw) if self._case_decides(raw.lower()) else raw)
        # A dollar sign in a target would be read as a variable.
        target = _quoted(rule.target.replace("$", "%24").encode())
        fits = max(len(key), len(target)) <= _LONGEST
        return b"    " + key + b" " + target + b";\n" if fits and _host(row.old) == self.host else b""

    def _case_decides(self, folded: bytes) -> bool:
        """Whether another old address, or a new one, differs from this only in letter case."""
        count = self._db.execute("SELECT count FROM old WHERE folded = ?", (folded,)).fetchone()[0]
        return count > 1 or self._db.execute("SELECT 1 FROM new WHERE folded = ?", (folded,)).fetchone() is not None


def _host(text: str) -> str:
    parts = address.split(text)
    return address.host_key(parts) if parts else ""


def _path(text: str) -> bytes:
    """The path as nginx sees it in `$uri`: decoded, slashes merged."""
    parts = address.split(text)
    return re.sub(rb"/{2,}", b"/", unquote_to_bytes(address.path_key(parts.path))) if parts else b""


def _raw(rule: _Rule) -> bytes:
    return rule.path + (f"?{rule.parameter}={rule.value}".encode() if rule.parameter else b"")


def _rule(row: OldAddress) -> _Rule | None:
    parts = address.split(row.old)
    if parts is None:
        return None
    path, pairs = _path(row.old), address.query_pairs(parts.query)
    if b"\0" in path or len(pairs) > 1 or (pairs and not _PARAMETER.match(pairs[0][0])):
        return None
    name, value = pairs[0] if pairs else ("", "")
    return _Rule(path, name, value, _GONE if row.status == GONE else address.safe(row.new))


def _quoted(raw: bytes) -> bytes:
    text = raw.decode("utf-8", "surrogateescape").translate(_ESCAPES)
    return b'"' + text.encode("utf-8", "surrogateescape") + b'"'


def _pattern(raw: bytes) -> bytes:
    """A regular expression for exactly these bytes, with regard to case; other than plain ones by number."""
    return (
        b"~^"
        + b"".join(
            bytes((byte,)) if (chr(byte).isalnum() and byte < 128) or byte in b"/-_" else b"\\x%02x" % byte
            for byte in raw
        )
        + b"$"
    )


def _write_maps(stream: BinaryIO, plan: _Plan) -> int:
    """Write all maps; gives the number of addresses that had to be skipped."""
    bucket = 64
    while bucket < plan.longest + 64:  # a key, its length and two pointers, with room to spare
        bucket *= 2
    stream.write(
        f"# Old addresses and where they are now. Include this in the http block.\n"
        f"map_hash_bucket_size {bucket};\nmap_hash_max_size {max(2048, plan.count * 2)};\n\n".encode()
    )
    _write_map(stream, plan, "", "$uri", "$newburrow_path")
    for name in sorted(plan.parameters):
        _write_map(stream, plan, name, f'"$uri?{name}=$arg_{name}"', f"$newburrow_by_{name}")
    skipped = 0
    for old in plan.skipped():
        skipped += 1
        shown = "".join(c if c.isprintable() else "?" for c in address.safe(old))[:500]
        stream.write(f"# Not written, since nginx cannot be told it: {shown}\n".encode())
    return skipped


def _write_map(stream: BinaryIO, plan: _Plan, parameter: str, source: str, variable: str) -> None:
    stream.write(f'map {source} {variable} {{\n    default "";\n'.encode())
    for line in plan.lines(parameter):
        stream.write(line)
    stream.write(b"}\n\n")


def _server(plan: _Plan) -> str:
    lines = ["# Answers old addresses. Include this at the top of the server block."]
    for name in sorted(plan.parameters):
        lines += _answer(f"$newburrow_by_{name}", "")
    lines += _answer("$newburrow_path", "$is_args$args")
    return "\n".join(lines) + "\n"


def _answer(variable: str, query: str) -> list[str]:
    return [f"if ({variable} = {_GONE}) {{ return 410; }}", f"if ({variable}) {{ return 301 {variable}{query}; }}"]
