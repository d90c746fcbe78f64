"""lighttpd: one file with a list of expressions for mod_redirect, asked in their order.

lighttpd asks the path percent-encoded in its one usual spelling, with slashes merged and the query behind it;
conditions ask the decoded one. An expression holds other than plain bytes by number; in a target the signs that would
be expanded are doubled.
"""

from __future__ import annotations

import re
import tempfile
from itertools import count
from typing import BinaryIO

from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.redirects.rules.rule_words import in_words
from newburrow.redirects.server_key import (
    Key,
    asks_for,
    exactly,
    is_at,
    key_of,
    shown,
    word_for,
)
from newburrow.redirects.servers.base import Open, Server, ServerFiles, WholeDomain
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress

_FILE = "newburrow-redirects.conf"
_LONGEST = 4000  # bytes of an expression or target
_MANY = 5000  # expressions that can be tried before requests get slow
_TOGETHER = 50  # gone addresses in one condition
_GONE = '\n  url.redirect = ( "" => "/" )\n  url.redirect-code = 410\n'
_QUERY = r"(?:\?.*)?$"
_DOMAIN = "newburrow-domain.conf"


class Lighttpd(Server):
    """lighttpd 1.4.50 and later."""

    name = "lighttpd"
    title = "lighttpd"

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """One file: what is redirected in one list, what is gone in conditions after it."""
        with open_file(_FILE) as stream:
            skipped = _write(stream, redirects)
        lines = redirects.count()
        slow = (
            f"\nlighttpd tries its {lines:,} expressions one after the other for every request: limit them\n"
            "(redirects.most in move.toml), or let a server with maps answer the old address."
        )
        return ServerFiles(
            f"Put {_FILE} into lighttpd's folder, load mod_redirect, and `include` the file in the configuration of\n"
            "the old address. Check with `lighttpd -tt -f lighttpd.conf`, then reload."
            + (slow if lines > _MANY else "")
            + (
                f"\n{skipped:,} addresses cannot be expressed for lighttpd; {_FILE} lists them."
                if skipped
                else ""
            ),
            skipped,
        )

    def write_domain(self, domain: WholeDomain, open_file: Open) -> str:
        """One block, for requests to the old host."""
        target = f"{domain.new}${{url.path}}${{qsa}}"
        host = is_at(domain.site).replace("(?:", "(?i:", 1)
        lines = [
            f'$HTTP["host"] =~ "{host}" {{',
            f'  url.redirect = ( "" => "{target}" )',
            f"  url.redirect-code = {domain.status}",
            "}",
        ]
        with open_file(_DOMAIN) as stream:
            stream.write(("\n".join(lines) + "\n").encode())
        return f"`include` {_DOMAIN} in the configuration of {domain.site}."


SERVER = Lighttpd()


def _write(stream: BinaryIO, redirects: RedirectMap) -> int:
    skipped, asked = 0, dict[bytes, set[str]]()
    numbers = count(1)

    def apart() -> str:
        """A comment that tells expressions apart, since lighttpd compares them without regard to letter case."""
        return f"(?#{next(numbers)})" if redirects.has_capitals else ""

    host = is_at(redirects.site, not redirects.mark).replace("(?:", "(?i:", 1)
    stream.write(
        b"# Old addresses and where they are now. Include this for the old address.\n"
        + f'$HTTP["host"] =~ "{host}" {{\nurl.redirect = (\n'.encode()
    )
    with tempfile.TemporaryFile() as gone:
        for row in redirects.spelled_out():
            found = _expression(row)
            if not found or max(len(found), len(word_for(row))) > _LONGEST:
                skipped += 1
                stream.write(
                    f"  # Not written, since lighttpd cannot express it: {shown(row.old)}\n".encode()
                )
                continue
            key = key_of(row)
            assert key is not None
            if key.pairs:  # those with parameters come first; few paths have any
                asked.setdefault(key.path, set()).add(asks_for(key.pairs))
            if row.status == GONE:
                gone.write(_condition(key, asked).encode() + b"\n")
                stream.write(f'  "^{found}{apart()}" => "",\n'.encode())
            else:
                target = ""
                if row.status != UNCHANGED:
                    target = _sent(_plain(word_for(row)), not key.pairs, redirects)
                stream.write(f'  "^{found}{apart()}" => "{target}",\n'.encode())
        for rule in redirects.rules:
            stream.write(
                f"  # {rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}\n".encode()
            )
            stream.write(f'  "{_rule(rule, redirects)},\n'.encode())
        stream.write(b")\n")
        if redirects.status != REDIRECTED:
            stream.write(f"url.redirect-code = {redirects.status}\n".encode())
        gone.seek(0)
        _write_gone(stream, gone)
    stream.write(b"}\n")
    return skipped


def _rule(rule: RedirectRule, redirects: RedirectMap) -> str:
    """A rule: its expression, an arrow, its target."""
    if rule.parameter:
        path = rule.path_regex().removesuffix("$")
        value = f"{rule.parameter}=({rule.value_regex()})"
        return rf'{path}\?(?:.*&)?{value}(?:&.*)?$" => "{rule.target()}"'
    target = _sent(rule.target(), True, redirects)
    return f'{rule.regex().removesuffix("$")}{_QUERY}" => "{target}"'


def _sent(target: str, by_path: bool, redirects: RedirectMap) -> str:
    """A target with the query of the visitor, which stands before a fragment."""
    if not by_path or not redirects.keeps_query:
        return target
    at, mark, fragment = target.partition("#")
    return f"{at}${{qsa}}{mark}{fragment}"


def _write_gone(stream: BinaryIO, gone: BinaryIO) -> None:
    """What is gone: many paths in one condition; one with a parameter has a condition of its own."""
    batch: list[str] = []
    for line in [*gone, b""]:
        path, mark, query = line.decode().strip().partition("?")
        if line and not mark:
            batch.append(path)
        if mark:
            inner = f'$HTTP["query-string"] {query[0]}~ "{query[1:]}"'
            stream.write(f'$HTTP["url"] =~ "^{path}$" {{ {inner} {{{_GONE}}} }}\n'.encode())
        if batch and (len(batch) == _TOGETHER or not line):
            stream.write(f'$HTTP["url"] =~ "^(?:{"|".join(batch)})$" {{{_GONE}}}\n'.encode())
            batch.clear()


def _condition(key: Key, asked: dict[bytes, set[str]]) -> str:
    """The decoded path of what is gone, and after a question mark what its query must hold or not, as expressions.

    A path alone is not gone where it is asked for with parameters by which others are known.
    """
    path = exactly(key.path)
    if key.pairs:
        return f"{path}?=^{asks_for(key.pairs)}"
    if key.path in asked:
        return f"{path}?!^(?:{'|'.join(sorted(asked[key.path]))})"
    return path


def _expression(row: OldAddress) -> str:
    """What fits an address, and no other; empty where lighttpd never sees it."""
    key, text = key_of(row), row.spelled.partition("/")
    path_part = text[2].partition("?")[0]
    if key is None or "%2F" in path_part or any(byte < 32 or byte == 127 for byte in key.path):
        return ""
    path = exactly(re.sub("/{2,}", "/", f"/{path_part}").encode())
    if key.pairs:
        return rf"{path}\?{asks_for(key.pairs)}"
    return path + _QUERY


def _plain(target: str) -> str:
    """A target of which nothing is expanded."""
    return target.replace("%", "%%").replace("$", "%%24")
