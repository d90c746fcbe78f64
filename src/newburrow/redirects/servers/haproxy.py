"""HAProxy: a map file, two maps of expressions, and the lines for a frontend that use them.

Paths and parameters are asked decoded. A key that holds a blank is an expression, since a blank ends the key of a map;
a parameter that has no value, or a name that is not plain, is asked of the whole query, as it was sent.
"""

from __future__ import annotations

import re
import tempfile
from typing import BinaryIO
from urllib.parse import unquote_to_bytes

from msgspec.structs import replace

from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.rule_words import in_words
from newburrow.redirects.server_key import (
    GONE_WORD,
    Key,
    asks_for,
    exactly,
    key_of,
    shown,
    word_for,
)
from newburrow.redirects.servers.base import Open, Server, ServerFiles, WholeDomain

_MAP, _RULES, _QUERIES = "newburrow.map", "newburrow-rules.map", "newburrow-queries.map"
_LOWERING = "newburrow-lowering.map"
_CONFIG = "newburrow-frontend.cfg"
_LONGEST = 1500  # bytes of a key and its answer; a line of a map has to fit into a buffer
_BLANK = re.compile(rb"[\x00-\x20\x7f]")
_BY_NUMBER = r"^(localhost|[0-9]+(\\.[0-9]+){3}|\\[.*\\])(:[0-9]+)?$"  # a server that is tried out before it has a name
_NAME = re.compile(r"[A-Za-z0-9_-]+\Z")
_DOMAIN = "newburrow-domain.cfg"


class Haproxy(Server):
    """HAProxy 2.4 and later."""

    name = "haproxy"
    title = "HAProxy"
    lowers = True

    def write(self, redirects: RedirectMap, open_file: Open) -> ServerFiles:
        """The maps, and the lines that use them."""
        maps = _HaproxyMaps(redirects.lowering())
        with (
            open_file(_MAP) as exact,
            open_file(_RULES) as rules,
            open_file(_QUERIES) as queries,
        ):
            maps.write(exact, rules, queries)
        files = [_MAP, _RULES, _QUERIES]
        if maps.lowering:
            files.append(_LOWERING)
            with open_file(_LOWERING) as stream:
                stream.write(maps.lowering_map().encode())
        with open_file(_CONFIG) as stream:
            stream.write(maps.config().encode())
        names = f"{', '.join(files[:-1])} and {files[-1]}"
        return ServerFiles(
            f"Put {names}\ninto {maps.folder}, and the lines of {_CONFIG} into the frontend of the old address.\n"
            "Check with `haproxy -c -f haproxy.cfg`, then reload."
            + (
                f"\n{maps.skipped:,} addresses cannot be expressed for HAProxy; {_MAP} lists them."
                if maps.skipped
                else ""
            ),
            maps.skipped,
        )

    def write_domain(self, domain: WholeDomain, open_file: Open) -> str:
        """One line for the frontend."""
        host = domain.site.partition(":")[0]
        is_here = f"{{ req.hdr(host),field(1,:),lower -m str {host} www.{host} }}"
        line = (
            f"    http-request redirect prefix {domain.new} code {domain.status} if {is_here}\n"
        )
        with open_file(_DOMAIN) as stream:
            stream.write(line.encode())
        return f"Put the line of {_DOMAIN} into the frontend of {domain.site}."


SERVER = Haproxy()


class _HaproxyMaps:
    """What is written, and what is learnt meanwhile: the sets of parameters."""

    def __init__(self, redirects: RedirectMap) -> None:
        self.redirects = redirects
        self.lowering = [rule for rule in redirects.rules if rule.lowers]
        self.skipped = 0
        self._sets: set[tuple[str, ...]] = {
            (rule.parameter,) for rule in redirects.parameter_rules
        }
        if redirects.mark:
            host = f"/{redirects.site.replace(':', '-')}"
        else:
            host = ""
        self.folder = f"/etc/haproxy{host}"

    def write(self, exact: BinaryIO, rules: BinaryIO, queries: BinaryIO) -> None:
        """Write the exceptions to the map of their form, and the rules after those that are expressions."""
        rules.write(b"# Asked in this order where the first map says nothing.\n")
        queries.write(b"# Asked in this order, of a path with its query.\n")
        with tempfile.TemporaryFile() as later:  # rules by path come after the exceptions
            for row in self.redirects.spelled_out():
                key = key_of(row, merged=False)
                answer = word_for(row).encode()
                if key is None:
                    self._skip(exact, row.old)
                    continue
                simple = all(_NAME.match(name) and value for name, value in key.pairs)
                word = key.path + _decoded(key)
                if key.pairs and not simple:
                    line, stream = _of_query(key) + b" " + answer + b"\n", queries
                elif _BLANK.search(word) or word.startswith(b"#"):
                    line, stream = f"^{exactly(word)}$".encode() + b" " + answer + b"\n", later
                else:
                    line, stream = word + b" " + answer + b"\n", exact
                if len(line) > _LONGEST:
                    self._skip(exact, row.old)
                    continue
                if key.pairs and simple:
                    self._sets.add(key.names)
                stream.write(line)
            later.seek(0)
            rules.write(later.read())
        for rule in self.redirects.rules:
            if rule.lowers:
                continue
            rules.write(
                f"# {rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}\n".encode()
            )
            rules.write(f"{rule.regex()} {rule.target(chr(92) + '{}')}\n".encode())

    def lowering_map(self) -> str:
        """The rules that convert to lowercase, each behind its number. They are asked of the path in small letters."""
        lines = [
            "# Each rule is asked by its number, where the path in its own letters is one of the rule's.\n"
        ]
        for number, rule in enumerate(self.lowering):
            parts = tuple(replace(part, word=part.word.lower()) for part in rule.parts)
            regex = replace(rule, parts=parts).regex().removeprefix("^")
            lines.append(f"# {rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}\n")
            lines.append(f"^{number}{regex} {rule.target(chr(92) + '{}')}\n")
        return "".join(lines)

    def _skip(self, stream: BinaryIO, old: str) -> None:
        self.skipped += 1
        stream.write(f"# Not written, since HAProxy cannot express it: {shown(old)}\n".encode())

    def config(self) -> str:
        """The lines for the frontend. To be called after the maps were written."""
        mark = self.redirects.mark
        here, to = f"newburrow_here{mark}", f"txn.newburrow{mark}"
        host = self.redirects.site.partition(":")[0]
        unset = f"if {here} !{{ var({to}) -m found }}"
        lines = [
            "    # Answers old addresses. These lines belong into the frontend of the old address.",
            f"    acl {here} req.hdr(host),field(1,:),lower -m str {host} www.{host}",
        ]
        if not mark:
            lines.append(f"    acl {here} req.hdr(host) -m reg {_BY_NUMBER}")
        whole = f"{to}_query"
        lines += [
            f"    http-request set-var({whole}) query if {here}",
            f'    http-request set-var({to}) path,url_dec,concat("?",{whole}),map_regm({self.folder}/{_QUERIES}) '
            f"if {here} {{ query -m len gt 0 }}",
        ]
        for names in sorted(self._sets, key=lambda names: (-len(names), names)):
            has_all = " ".join(f"{{ urlp({name}) -m found }}" for name in names)
            lines += [
                f"    http-request set-var({to}_{n}) urlp({name}),url_dec(1) {unset} {has_all}"
                for n, name in enumerate(names)
            ]
            pairs = ",".join(
                f'concat("{"&" if n else "?"}{name}=",{to}_{n})' for n, name in enumerate(names)
            )
            for lookup in (f"map({self.folder}/{_MAP})", f"map_regm({self.folder}/{_RULES})"):
                lines.append(
                    f"    http-request set-var({to}) path,url_dec,{pairs},{lookup} {unset} {has_all}"
                )
        lines += self._answers(here, to, unset)
        # elsewhere than at its start a line has to escape what begins a comment
        return "\n".join([lines[0], *(line.replace("#", "\\#") for line in lines[1:])]) + "\n"

    def _answers(self, here: str, to: str, unset: str) -> list[str]:
        """The lines that look up the path alone, where nothing is found yet, and answer."""
        by_path = f"{to}_by_path"
        lines = [
            f"    http-request set-var({by_path}) str(1) {unset}",
            f"    http-request set-var({to}) path,url_dec,map({self.folder}/{_MAP}) {unset}",
            f"    http-request set-var({to}) path,url_dec,map_regm({self.folder}/{_RULES}) {unset}",
            *self._lowered(to, unset),
            f"    http-request return status 410 if {here} {{ var({to}) -m str {GONE_WORD} }}",
        ]
        status = self.redirects.status
        if self.redirects.keeps_query:
            # The query goes before a fragment, and after a query that is there already.
            has_query = f"if {here} {{ var({by_path}) -m found }} {{ query -m len gt 0 }}"
            at, fragment = f"%[var({to}),field(1,#)]", f"%[var({to}),field(2,#)]"
            for condition, target in (
                (f"{{ var({to}) -m reg ^http[^#]*[?].*# }}", f"{at}&%[query]#{fragment}"),
                (f"{{ var({to}) -m reg ^http.*# }}", f"{at}?%[query]#{fragment}"),
                (f"{{ var({to}) -m reg ^http.*[?] }}", f"%[var({to})]&%[query]"),
                (f"{{ var({to}) -m beg http }}", f"%[var({to})]?%[query]"),
            ):
                lines.append(
                    f"    http-request redirect location {target} code {status} {has_query} {condition}"
                )
        lines.append(
            f"    http-request redirect location %[var({to})] code {status} "
            f"if {here} {{ var({to}) -m beg http }}"
        )
        return lines

    def _lowered(self, to: str, unset: str) -> list[str]:
        """The lines that ask the rules that convert to lowercase."""
        if not self.lowering:
            return []
        lines = [f"    http-request set-var({to}_small) path,url_dec,lower {unset}"]
        for number, rule in enumerate(self.lowering):
            asked = f'str({number}),concat("",{to}_small),map_regm({self.folder}/{_LOWERING})'
            is_own = f"{{ path,url_dec -m reg '{rule.regex()}' }}"
            lines.append(f"    http-request set-var({to}) {asked} {unset} {is_own}")
        return lines


def _decoded(key: Key) -> bytes:
    if not key.pairs:
        return b""
    pairs = [name.encode() + b"=" + unquote_to_bytes(value) for name, value in key.pairs]
    return b"?" + b"&".join(pairs)


def _of_query(key: Key) -> bytes:
    return f"^{exactly(key.path)}\\?{asks_for(key.pairs)}".encode()
