"""nginx: two maps, from path and from path with one parameter, and a server snippet that uses them.

A map takes 100,000 addresses in a moment where as many exact locations take nginx minutes. Its keys are
compared with the decoded, normalised path (`$uri`) without regard to letter case; an address that
differs from another only in case is written as a regular expression, which does regard it.

An address from an export can hold anything. Keys are quoted byte by byte, targets are percent-encoded,
and an address that nginx could never see (a NUL) is left out.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from typing import BinaryIO
from urllib.parse import unquote_to_bytes

from msgspec import Struct

from newburrow.core import url
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.learning import in_words
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.redirects.servers.base import Open, ServerFiles
from newburrow.store.journal.rows import GONE, UNCHANGED, OldAddress
from newburrow.store.redirects.path_rules import PathRules

_MAPS, _SERVER = "newburrow-maps.conf", "newburrow-server.conf"
_GONE = "gone"
_MANY = 10_000  # keys
_LONGEST = 4000  # bytes of a word in a configuration file; nginx stops at 4,096
_PARAMETER = re.compile(r"[a-z0-9_]+\Z")  # what nginx can name as $arg_...
_ESCAPES = {
    ord('"'): '\\"',
    ord("\\"): "\\\\",
    ord("\n"): "\\n",
    ord("\r"): "\\r",
    ord("\t"): "\\t",
}


class _MapLine(Struct, frozen=True):
    """One line of a map."""

    path: bytes  # decoded, as nginx compares it
    parameter: str  # name of the query parameter; empty for a rule by path alone
    value: str  # of the parameter, as it is written in the address
    target: str  # a URL, _GONE, or empty for an address that is not redirected


class Nginx:
    """nginx 1.18 and later."""

    name = "nginx"
    title = "nginx"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """One file for the http block, one for the server block."""
        plan = _MapLines(redirects)
        with open_file(_MAPS) as stream:
            skipped = _write_maps(stream, plan)
        with open_file(_SERVER) as stream:
            stream.write(_server(plan).encode())
        return ServerFiles(
            f"Put both files into nginx's folder. Then add `include {_MAPS};` to the http block and\n"
            f"`include {_SERVER};` at the top of the server block of the old address.\n"
            "Check with `nginx -t`, then reload."
            + (
                f"\n{skipped:,} addresses cannot be expressed for nginx; {_MAPS} lists them at its end."
                if skipped
                else ""
            ),
            skipped,
        )


SERVER = Nginx()


class _MapLines:
    """The lines of the maps, gathered in one pass over the answers.

    Where letter case matters is known only when all addresses were seen.
    """

    def __init__(self, redirects: RedirectMap) -> None:
        self.permanent = redirects.permanent
        self._paths = PathRules(map(_path_rule, redirects.spelled_out()))
        if redirects.has_capitals:
            self._paths.add_cased(_with_capitals(redirects))
        if self._paths.has_case:
            self._paths.add_uncased(_without_capitals(redirects))
        self._paths.leave_out_merged()
        self.host = self._paths.main_host()
        self.count, self.longest = self._paths.size(self.host)
        self.parameters = self._paths.parameters(self.host)
        self.rules = redirects.rules if redirects.site == self.host or not self.count else ()

    def lines(self, parameter: str) -> Iterator[bytes]:
        """The lines of the map for a parameter; for the map by path alone, it is empty."""
        rows = self._paths.of_parameter(self.host, parameter)
        return filter(None, (self._line(raw, target) for raw, target in rows))

    def skipped(self) -> Iterator[str]:
        """Old addresses that nginx cannot answer: of another host, or of a form or length it does not take."""
        long = _LONGEST // 5 - 8  # an escaped byte takes five
        for old, host, raw, target in self._paths.doubtful(self.host, long):
            if raw is None or host != self.host or not self._line(raw, target):
                yield old

    def _line(self, raw: bytes, target: str) -> bytes:
        return _line(raw, target, self._paths.case_decides(raw))


def _seen(redirects: RedirectMap, told_apart: Callable[[str], bool]) -> Iterator[bytes]:
    """The words of all old addresses, and of the new ones on the same host, of those whose key is `told_apart`."""
    for rows in (redirects.answers(), redirects.others()):
        for row in rows:
            if told_apart(row.key) and (rule := _rule(row)[1]):
                yield _raw(rule)
            if (
                told_apart(row.new_key)
                and row.new_key.partition("/")[0] == row.key.partition("/")[0]
            ):
                unslashed = OldAddress(
                    row.new.partition("?")[0], "", GONE, "", row.new_key.partition("?")[0]
                )
                if rule := _rule(unslashed)[1]:
                    yield _raw(rule)


def _with_capitals(redirects: RedirectMap) -> Iterator[tuple[bytes, bytes]]:
    """The words of a map that hold capitals, folded and as they are."""
    seen = _seen(redirects, lambda key: not key.islower())
    return ((folded, raw) for raw in seen if (folded := raw.lower()) != raw)


def _without_capitals(redirects: RedirectMap) -> Iterator[tuple[bytes]]:
    return ((raw,) for raw in _seen(redirects, bool) if raw.lower() == raw)


def _path_rule(row: OldAddress) -> tuple[str, str, str, bytes | None, str]:
    host, rule = _rule(row)
    if rule:
        return (row.old, host, rule.parameter, _raw(rule), rule.target)
    return (row.old, host, "", None, "")


def _line(raw: bytes, target: str, case_decides: bool) -> bytes:
    """A rule as nginx reads it; empty for one that is too long for a configuration file."""
    key = _quoted(_pattern(raw) if case_decides else raw)
    # a dollar sign would be read as a variable
    value = _quoted(target.replace("$", "%24").encode())
    if max(len(key), len(value)) <= _LONGEST:
        return b"    " + key + b" " + value + b";\n"
    return b""


def _raw(rule: _MapLine) -> bytes:
    return rule.path + (f"?{rule.parameter}={rule.value}".encode() if rule.parameter else b"")


def _rule(row: OldAddress) -> tuple[str, _MapLine | None]:
    """The host of an old address, and its rule; none if nginx cannot express it."""
    host, slash, path_part = row.spelled.partition("/")
    path, _mark, query = path_part.partition("?")
    if query:
        pairs = url.query_pairs(query)
    else:
        pairs = []
    seen = (slash + path).encode()
    if b"%" in seen:
        seen = unquote_to_bytes(seen)
    # as nginx sees it in `$uri`
    if b"//" in seen:
        seen = re.sub(rb"/{2,}", b"/", seen)
    if (
        not host
        or b"\0" in seen
        or len(pairs) > 1
        or (pairs and not _PARAMETER.match(pairs[0][0]))
    ):
        return host, None
    if pairs:
        name, value = pairs[0]
    else:
        name, value = ("", "")
    if row.status == UNCHANGED:
        target = ""
    elif row.status == GONE:
        target = _GONE
    else:
        target = url.safe(row.new)
    return host, _MapLine(seen, name, value, target)


def _quoted(raw: bytes) -> bytes:
    text = raw.decode("utf-8", "surrogateescape").translate(_ESCAPES)
    return b'"' + text.encode("utf-8", "surrogateescape") + b'"'


def _pattern(raw: bytes) -> bytes:
    """A regular expression for exactly these bytes, with regard to case; other than plain ones by number."""
    return (
        b"~^"
        + b"".join(
            bytes((byte,))
            if (chr(byte).isalnum() and byte < 128) or byte in b"/-_"
            else b"\\x%02x" % byte
            for byte in raw
        )
        + b"$"
    )


def _write_maps(stream: BinaryIO, plan: _MapLines) -> int:
    """Write all maps; gives the number of addresses that had to be skipped."""
    bucket = 64
    while bucket < plan.longest + 64:  # a key, its length and two pointers, with room to spare
        bucket *= 2
    # with buckets that are too small nginx starts slowly and warns
    if plan.count > _MANY:
        bucket *= 4
    stream.write(
        f"# Old addresses and where they are now. Include this in the http block.\n"
        f"map_hash_bucket_size {bucket};\nmap_hash_max_size {max(2048, plan.count * 2)};\n\n".encode()
    )
    _write_map(stream, plan, "", "$uri", "$newburrow_path", plan.rules)
    for name in plan.parameters:
        _write_map(stream, plan, name, f'"$uri?{name}=$arg_{name}"', f"$newburrow_by_{name}")
    skipped = 0
    for old in plan.skipped():
        skipped += 1
        shown = "".join(c if c.isprintable() else "?" for c in url.safe(old))[:500]
        stream.write(f"# Not written, since nginx cannot express it: {shown}\n".encode())
    return skipped


def _write_map(
    stream: BinaryIO,
    plan: _MapLines,
    parameter: str,
    source: str,
    variable: str,
    rules: Sequence[RedirectRule] = (),
) -> None:
    stream.write(f'map {source} {variable} {{\n    default "";\n'.encode())
    for line in plan.lines(parameter):
        stream.write(line)
    for rule in rules:  # nginx tries them in their order, after all single addresses
        comment = f"{rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}"
        stream.write(
            f"    # {comment}\n    {_word(f'~{rule.regex()}')} {_word(rule.target())};\n".encode()
        )
    stream.write(b"}\n\n")


def _word(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _server(plan: _MapLines) -> str:
    lines = ["# Answers old addresses. Include this at the top of the server block."]
    for name in plan.parameters:
        lines += _answer(f"$newburrow_by_{name}", "", plan.permanent)
    lines += _answer("$newburrow_path", "$is_args$args", plan.permanent)
    return "\n".join(lines) + "\n"


def _answer(variable: str, query: str, status: int) -> list[str]:
    return [
        f"if ({variable} = {_GONE}) {{ return 410; }}",
        f"if ({variable}) {{ return {status} {variable}{query}; }}",
    ]
