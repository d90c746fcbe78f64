"""nginx: maps from path and from path with parameters, and a server snippet that uses them.

A map takes 100,000 addresses in a moment where as many exact locations take nginx minutes. Its keys are
compared with the decoded, normalised path (`$uri`) without regard to letter case; an address that
differs from another only in case is written as a regular expression, which does regard it. Parameters that
have to be there are compared in a map of their own for each set of names; those that a browser may spell in
several ways are asked of the whole query, by expressions.

An address from an export can hold anything. Keys are quoted byte by byte, targets are percent-encoded,
and an address that nginx could never see (a NUL) is left out.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from string import ascii_letters, digits
from typing import BinaryIO

from newburrow.core import url
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.redirects.rules.rule_words import in_words
from newburrow.redirects.server_key import (
    BY_NUMBER,
    Key,
    asks_for,
    exactly,
    key_of,
    shown,
    word_for,
)
from newburrow.redirects.servers.base import Open, Server, ServerFiles, WholeDomain
from newburrow.store.journal.rows import GONE, OldAddress
from newburrow.store.redirects.path_rules import PathRules

_MAPS, _SERVER = "newburrow-maps.conf", "newburrow-server.conf"
_HASH = "newburrow-hash.conf"  # for a further site that stands alone
_MANY = 10_000  # keys
_MOST_SETS = 40  # of parameters, with a map each
_LONGEST = 4000  # bytes of a word in a configuration file; nginx stops at 4,096
_WHOLE = "*"  # the set of those that are asked of the whole query
_PLAIN = f"{ascii_letters}{digits}/_.:~?=&#%+-".encode()  # signs that mean themselves
_ESCAPES = {
    ord('"'): '\\"',
    ord("\\"): "\\\\",
    ord("\n"): "\\n",
    ord("\r"): "\\r",
    ord("\t"): "\\t",
}
_DOMAIN = "newburrow-domain.conf"


class Nginx(Server):
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
        alone = ""
        if redirects.mark:
            with open_file(_HASH) as stream:
                stream.write(_hash_sizes(redirects).encode())
            alone = f"If this server does not include the files of the first site, also add `include {_HASH};`.\n"
        return ServerFiles(
            f"Put the files into nginx's folder. Then add `include {_MAPS};` to the http block and\n"
            f"`include {_SERVER};` at the top of the server block of the old address.\n"
            f"{alone}Check with `nginx -t`, then reload. `pcre_jit on;` at the top of nginx.conf makes rules cost less."
            + (
                f"\n{skipped:,} addresses cannot be expressed for nginx; {_MAPS} lists them at its end."
                if skipped
                else ""
            ),
            skipped,
        )

    def write_domain(self, domain: WholeDomain, open_file: Open) -> str:
        """One line for the server block."""
        with open_file(_DOMAIN) as stream:
            stream.write(f"return {domain.status} {domain.new}$request_uri;\n".encode())
        return f"`include {_DOMAIN};` in the server block of {domain.site}, and nothing else there."


SERVER = Nginx()


class _MapLines:
    """The lines of the maps, gathered in one pass over the exceptions.

    Where letter case matters is known only when all addresses were seen; where it matters nowhere, the lines of paths
    alone are written as they come.
    """

    def __init__(self, redirects: RedirectMap) -> None:
        self.redirects = redirects
        self._streams_paths = not (redirects.has_capitals or redirects.has_merged)
        if self._streams_paths:
            rows = redirects.spelled_out_queries()
        else:
            rows = redirects.spelled_out()
        self._paths = PathRules(map(_path_rule, rows))
        if redirects.has_capitals:
            self._paths.add_cased(_with_capitals(redirects))
        if self._paths.has_case:
            self._paths.add_uncased(_without_capitals(redirects))
        self._paths.leave_out_merged()
        names = [rule.parameter for rule in redirects.parameter_rules]
        self.sets = sorted({*self._paths.parameters(), *names})
        # Those with more parameters are asked before those with fewer.
        self.sets.sort(key=lambda names: (names != _WHOLE, -names.count("&")))
        if len(self.sets) > _MOST_SETS:
            self._paths.join([s for s in self.sets[_MOST_SETS:] if s not in names], _WHOLE)
            kept = [s for n, s in enumerate(self.sets) if n < _MOST_SETS or s in names]
            self.sets = list(dict.fromkeys((_WHOLE, *kept)))

    def lines(self, parameters: str) -> Iterator[bytes]:
        """The lines of the map for a set of parameters; for the map by path alone, it is empty."""
        for raw, pattern, target in self._paths.of_parameter(parameters):
            if parameters == _WHOLE:
                pattern = pattern or _of_word(raw)
            if line := self._line(raw, pattern, target):
                yield line
        if self._streams_paths and not parameters:
            yield from self._lines_of_paths()

    def _lines_of_paths(self) -> Iterator[bytes]:
        """The lines of addresses that are a path alone; what cannot be written is kept for `skipped`."""
        for row in self.redirects.spelled_out_paths():
            rule = _path_rule(row)
            _old, _parameters, raw, pattern, target = rule
            line = _line(raw, pattern, target) if raw is not None else b""
            if line:
                yield line
            else:
                self._paths.add([rule])

    def skipped(self) -> Iterator[str]:
        """Old addresses that nginx cannot answer: of a form or length that it does not take."""
        long = _LONGEST // 5 - 8  # an escaped byte takes five
        for old, raw, pattern, target in self._paths.doubtful(long):
            if raw is None or not self._line(raw, pattern, target):
                yield old

    def _line(self, raw: bytes, pattern: str, target: str) -> bytes:
        return _line(raw, pattern or self._cased(raw), target)

    def _cased(self, raw: bytes) -> str:
        if self._paths.case_decides(raw):
            return f"~^{exactly(raw)}$"
        return ""


def _seen(redirects: RedirectMap, told_apart: Callable[[str], bool]) -> Iterator[bytes]:
    """The words of all old addresses, and of the new ones on the same host, of those whose key is `told_apart`."""
    for rows in (redirects.answers(), redirects.others()):
        for row in rows:
            if told_apart(row.key) and (key := key_of(row)):
                yield _raw(key)
            if (
                told_apart(row.new_key)
                and row.new_key.partition("/")[0] == row.key.partition("/")[0]
            ):
                unslashed = OldAddress.of(
                    row.new.partition("?")[0], "", GONE, "", row.new_key.partition("?")[0]
                )
                if key := key_of(unslashed):
                    yield _raw(key)


def _with_capitals(redirects: RedirectMap) -> Iterator[tuple[bytes, bytes]]:
    """The words of a map that hold capitals, folded and as they are."""
    seen = _seen(redirects, lambda key: not key.islower())
    return ((folded, raw) for raw in seen if (folded := raw.lower()) != raw)


def _without_capitals(redirects: RedirectMap) -> Iterator[tuple[bytes]]:
    return ((raw,) for raw in _seen(redirects, bool) if raw.lower() == raw)


def _path_rule(row: OldAddress) -> tuple[str, str, bytes | None, str, str]:
    """Old address, its set of parameters, the word and the expression that are compared, and the target."""
    key = key_of(row)
    if key is None:
        return row.old, "", None, "", ""
    if not key.pairs:
        return row.old, "", key.path, "", word_for(row)
    if key.is_plain:
        return row.old, "&".join(key.names), _raw(key), "", word_for(row)
    # What a browser may spell in several ways is asked of the whole query.
    return row.old, _WHOLE, _raw(key), _of_query(key), word_for(row)


def _of_query(key: Key) -> str:
    return f"~^{exactly(key.path)}\\?{asks_for(key.pairs)}"


def _of_word(raw: bytes) -> str:
    """The expression for a word that is in a map of the whole query because there are too many sets."""
    path, _mark, query = raw.rpartition(b"?")
    return _of_query(Key(path, tuple(url.query_pairs(query.decode()))))


def _line(raw: bytes, pattern: str, target: str) -> bytes:
    """A rule as nginx reads it; empty for one that is too long for a configuration file."""
    key = pattern.encode() if pattern else raw
    # a dollar sign would be read as a variable
    value = target.replace("$", "%24").encode()
    if (key + value).translate(None, _PLAIN):  # few hold other signs
        key, value = _escaped(key), _escaped(value)
    if max(len(key), len(value)) + 2 <= _LONGEST:
        return b'    "%b" "%b";\n' % (key, value)
    return b""


def _raw(key: Key) -> bytes:
    return key.path + key.query.encode()


def _escaped(raw: bytes) -> bytes:
    text = raw.decode("utf-8", "surrogateescape").translate(_ESCAPES)
    return text.encode("utf-8", "surrogateescape")


def _write_maps(stream: BinaryIO, plan: _MapLines) -> int:
    """Write all maps; gives the number of addresses that had to be skipped."""
    redirects, mark = plan.redirects, plan.redirects.mark
    stream.write(b"# Old addresses and where they are now. Include this in the http block.\n")
    if not mark:  # once for all sites
        stream.write(_hash_sizes(redirects).encode())
    host = redirects.site.partition(":")[0]
    names = "".join(f"    {_word(name)} 1;\n" for name in (host, f"www.{host}"))
    if not mark:  # asked by its number the server is tried out
        names += f"    {_word(f'~*^(?:{BY_NUMBER})$')} 1;\n"
    stream.write(f'map $host $newburrow_here{mark} {{\n    default "";\n{names}}}\n\n'.encode())
    _write_map(stream, plan, "", "$uri", f"$newburrow_path{mark}", redirects.path_rules)
    for number, names in enumerate(plan.sets):
        if names == _WHOLE:
            source = '"$uri?$args"'
        else:
            pairs = "&".join(f"{name}=$arg_{name}" for name in names.split("&"))
            source = f'"$uri?{pairs}"'
        rules = [rule for rule in redirects.parameter_rules if rule.parameter == names]
        _write_map(stream, plan, names, source, f"$newburrow_by_{number}{mark}", rules)
    stream.write(_any(plan).encode())
    skipped = 0
    for old in plan.skipped():
        skipped += 1
        stream.write(f"# Not written, since nginx cannot express it: {shown(old)}\n".encode())
    return skipped


def _hash_sizes(redirects: RedirectMap) -> str:
    """How large the tables of all maps are; nginx takes this once in its http block."""
    count, longest = redirects.size
    bucket = 64
    # a key, its length and two pointers, with room to spare
    while bucket < min(longest, _LONGEST) + 64:
        bucket *= 2
    # with buckets that are too small nginx starts slowly and warns
    if count > _MANY:
        bucket *= 4
    return f"map_hash_bucket_size {bucket};\nmap_hash_max_size {max(2048, count * 2)};\n\n"


def _write_map(
    stream: BinaryIO,
    plan: _MapLines,
    parameters: str,
    source: str,
    variable: str,
    rules: Sequence[RedirectRule] = (),
) -> None:
    stream.write(f'map {source} {variable} {{\n    default "";\n'.encode())
    for line in plan.lines(parameters):
        stream.write(line)
    lines = "".join(map(_rule_lines, rules))
    if any_rule := _any_rule(rules):
        # Most requests match none of the rules: one expression finds that out.
        of_rules = variable.replace("$newburrow_", "$newburrow_rule_", 1)
        lines = f'    {any_rule} {of_rules};\n}}\n\nmap {source} {of_rules} {{\n    default "";\n{lines}'
    stream.write(f"{lines}}}\n\n".encode())


def _rule_lines(rule: RedirectRule) -> str:
    """A rule with its comment. nginx tries them in their order, after all single addresses."""
    comment = f"{rule.old_pattern()} -> {rule.new_pattern()}: {in_words(rule)}"
    return f"    # {comment}\n    {_word(f'~{rule.regex()}')} {_word(rule.target())};\n"


def _any_rule(rules: Sequence[RedirectRule]) -> str:
    """The expression for what any of several rules answers; empty for one rule, or where it would be too long."""
    if len(rules) < 2:
        return ""
    expressions = "|".join(rule.regex_among_others() for rule in rules)
    word = _word(f"~^(?:{expressions})$")
    if len(word.encode()) > _LONGEST:
        return ""
    return word


def _word(text: str) -> str:
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _any(plan: _MapLines) -> str:
    """A map that says whether there is anything to answer: one look for each request of any other page.

    Only then is the host looked at.
    """
    mark = plan.redirects.mark
    found = "".join(f"$newburrow_by_{number}{mark}" for number in range(len(plan.sets)))
    source = f"{found}$newburrow_path{mark}"
    if found:
        source = f'"{source}"'
    return (
        f"map {source} $newburrow_any{mark} {{\n"
        f'    default $newburrow_here{mark};\n    "" "";\n    "~^pass" "";\n}}\n\n'
    )


def _server(plan: _MapLines) -> str:
    """The snippet. In its location the last answer that is set counts, so what says most comes last."""
    mark, keeps = plan.redirects.mark, plan.redirects.keeps_query
    to, rest = f"$newburrow_to{mark}", f"$newburrow_rest{mark}"
    answer = f"/newburrow-answer{mark}"
    lines = [
        f"set {to} $newburrow_path{mark};",
        f"set {rest} {'$is_args$args' if keeps else chr(34) * 2};",
    ]
    if keeps:  # after a question mark that is there already
        both = f"$newburrow_both{mark}"
        lines += [
            f'set {both} "{to}$is_args";',
            f'if ({both} ~ "[?].*[?]$") {{ set {rest} "&$args"; }}',
        ]
    for number in reversed(range(len(plan.sets))):
        variable = f"$newburrow_by_{number}{mark}"
        lines.append(f'if ({variable}) {{ set {to} {variable}; set {rest} ""; }}')
    status = plan.redirects.status
    lines += [
        f"if ({to} = gone) {{ return 410; }}",
        f'if ({to} ~ "^([^#]*)(#.*)$") {{ return {status} $1{rest}$2; }}',
        f"return {status} {to}{rest};",
    ]
    inner = "\n".join(f"    {line}" for line in lines)
    return (
        "# Answers old addresses. Include this at the top of the server block.\n"
        f"if ($newburrow_any{mark}) {{ rewrite ^ {answer} last; }}\n"
        f"location = {answer} {{\n    internal;\n{inner}\n}}\n"
    )
