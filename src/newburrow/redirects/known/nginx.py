"""Redirects in the configuration of nginx: `return`, `rewrite`, `location` and `map`."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import TextIO

from msgspec import Struct, field

from newburrow.model import Where
from newburrow.redirects.known.expressions import only_path, only_query
from newburrow.redirects.known.found import (
    GONE,
    REDIRECTS,
    Found,
    KnownUrl,
    not_understood,
    of_rule,
)

_WORD = re.compile(
    r"""(?P<space>\s+)|(?P<comment>\#[^\n]*)|(?P<sign>[{};])|"(?P<double>(?:\\.|[^"\\])*)"|'(?P<single>(?:\\.|[^'\\])*)'"""
    r"""|(?P<word>(?:\\.|\$\{\w+\}|[^\s{};"'\\])(?:\\.|\$\{\w+\}|\{\d+(?:,\d*)?\}|[^\s{};\\])*)""",
    re.DOTALL,
)
_VARIABLE = re.compile(r"\$\{?[A-Za-z_]\w*\}?")
_URI = re.compile(r"\$\{?(?:request_uri|uri)\}?")
_SITE = re.compile(r"^\$scheme://\$(?:host|http_host|server_name)(?=/|$)")
_EXACT, _CASELESS = "=", "~*"


class _Directive(Struct):
    """A directive with its words, the line it begins in, and the directives of its block, if it has one."""

    words: list[str]
    line: int
    block: list[_Directive] = field(default_factory=list)
    has_block: bool = False


class _Scope(Struct, frozen=True):
    """For which requests the directives of a block are."""

    host: str = ""
    path: str = ""  # the expression of the path; empty for all
    only: str = ""  # the one path
    query: str = ""
    why: str = ""  # why it is not understood


def read(text: TextIO, file: str) -> Found:
    """The redirects in a configuration: known addresses, rules for many, and a problem for each that is not used."""
    directives = _parsed(iter(_words(text.read())))  # a configuration is small
    for directive in directives:
        yield from _of(directive, _Scope(), file)


def _words(text: str) -> Iterator[tuple[str, str, int]]:
    """Each word or sign with its kind and its line; a character that fits nothing ends the reading of its word."""
    at, line = 0, 1
    while at < len(text):
        found = _WORD.match(text, at)
        if found is None:
            at += 1
            continue
        kind = found.lastgroup or ""
        if kind not in ("space", "comment"):
            quoted = kind in ("double", "single")
            word = found[kind] if kind else ""
            if quoted:
                word = re.sub(r"\\([\"'\\])", r"\1", word)
            yield ("word" if quoted else kind), word, line
        line += text.count("\n", at, found.end())
        at = found.end()


def _parsed(words: Iterator[tuple[str, str, int]], depth: int = 0) -> list[_Directive]:
    directives: list[_Directive] = []
    current: _Directive | None = None
    for kind, word, line in words:
        if kind != "sign":
            current = current or _Directive([], line)
            current.words.append(word)
        elif word == "{":
            current = current or _Directive([""], line)
            current.has_block = True
            if depth < 50:
                current.block = _parsed(words, depth + 1)
            directives.append(current)
            current = None
        elif word == ";":
            if current:
                directives.append(current)
            current = None
        else:
            return directives
    return directives


def _of(directive: _Directive, scope: _Scope, file: str) -> Found:
    name, *words = directive.words
    where = Where(file, directive.line)
    if name == "map" and directive.has_block:
        yield from _map(directive, words, file)
    elif directive.has_block:
        inner = _inner(name, words, directive, scope)
        for other in directive.block:
            yield from _of(other, inner, file)
    elif name == "return" and words:
        yield from _return(words, scope, where)
    elif name == "rewrite" and len(words) > 1:
        yield from _rewrite(words, scope, where)


def _inner(name: str, words: list[str], directive: _Directive, scope: _Scope) -> _Scope:
    """The scope of the directives in a block."""
    if name == "server":
        names = next(
            (
                other.words[1:]
                for other in directive.block
                if other.words[:1] == ["server_name"]
            ),
            [],
        )
        plain = [
            word.removeprefix("www.")
            for word in names
            if re.fullmatch(r"[\w.-]+\.[\w-]+", word)
        ]
        return _Scope(host=plain[0] if plain else "")
    if name == "location":
        return _location(words, scope)
    if name == "if":
        return _if(" ".join(words).strip("()").split(), scope)
    return scope


def _location(words: list[str], scope: _Scope) -> _Scope:
    *modifier, path = words or [""]
    if modifier == [_EXACT]:
        return _Scope(scope.host, f"^{re.escape(path)}$", path)
    if modifier in (["~"], [_CASELESS]):
        if modifier == [_CASELESS]:  # more than one address, by letter case
            return _Scope(scope.host, f"(?i){path}")
        return _Scope(scope.host, path, only_path(path))
    if path.startswith("@") or len(modifier) > 1:
        return _Scope(why="it stands in a location that is not for an address")
    return _Scope(scope.host, f"^{re.escape(path)}")


def _if(words: list[str], scope: _Scope) -> _Scope:
    """The scope of an `if`: of a host, of one parameter, or of a query."""
    if len(words) == 3:
        variable, operator, value = words[0], words[1], words[2].strip("\"'")
        if variable in ("$host", "$http_host") and operator == "=":
            return _Scope(
                value.removeprefix("www."), scope.path, scope.only, scope.query, scope.why
            )
        query = ""
        if variable.startswith("$arg_") and operator == "=":
            query = f"{variable[5:]}={value}"
        elif variable in ("$args", "$query_string"):
            if operator == "=":
                query = value
            elif operator == "~":
                query = only_query(value)
            else:
                query = ""
        if query:
            return _Scope(scope.host, scope.path, scope.only, query, scope.why)
    return _Scope(why=f"its condition is not understood ({' '.join(words)})")


def _return(words: list[str], scope: _Scope, where: Where) -> Found:
    status, target = words[0], "".join(words[1:2])
    if not status.isdigit():
        status, target = "302", status
    if status not in {*REDIRECTS, GONE}:
        return
    if status == GONE:
        target = ""
    yield from _answer(scope, target, f"return {' '.join(words)}", where)


def _answer(scope: _Scope, target: str, text: str, where: Where) -> Found:
    """The answer for the requests of a scope."""
    new = _SITE.sub("", target)
    expression = scope.path or "^/"
    only = scope.only
    if _URI.search(new) and not only:
        # all of the path goes along
        expression, new = f"^({expression.removeprefix('^')}.*)$", _URI.sub("$1", new, count=1)
    elif only:
        new = _URI.sub(only, new)
    why = scope.why
    if _VARIABLE.search(new):
        why = why or "its target holds a variable"
    if why:
        yield not_understood(text, why, where)
    elif only and not re.search(r"\$\d", new):
        query = f"?{scope.query}" if scope.query else ""
        yield KnownUrl(_at(scope.host, only) + query, new, is_gone=not new)
    elif scope.query or not new:
        many = "with a query" if scope.query else "that are gone"
        yield not_understood(text, f"it is for many addresses {many}", where)
    else:
        yield from of_rule(expression, new, where)


def _rewrite(words: list[str], scope: _Scope, where: Where) -> Found:
    expression, target, *flags = words
    is_redirect = flags in (["permanent"], ["redirect"]) or target.startswith(
        ("http://", "https://")
    )
    if not is_redirect and not target.startswith("$scheme"):
        return  # what it answers has the same address
    inner = _Scope(scope.host, expression, only_path(expression), scope.query, scope.why)
    yield from _answer(inner, target.removesuffix("?"), f"rewrite {' '.join(words)}", where)


def _map(directive: _Directive, words: list[str], file: str) -> Found:
    """A map from addresses to addresses; any other is not about redirects."""
    if not words or words[0] not in ("$uri", "$request_uri"):
        return
    for line in directive.block:
        where = Where(file, line.line)
        if line.words[0] == "include":
            words_of = " ".join(line.words)
            yield not_understood(words_of, "the file that it names was not handed in", where)
        if len(line.words) != 2 or not line.words[1].startswith(("/", "http://", "https://")):
            continue
        old, new = line.words[0].removeprefix("\\"), line.words[1]
        if old.startswith("~"):
            flag = "(?i)" if old.startswith("~*") else ""
            expression = old.removeprefix("~*" if flag else "~")
            scope = _Scope("", flag + expression, only_path(expression))
            yield from _answer(scope, new, " ".join(line.words), where)
        elif old.startswith("/"):
            yield KnownUrl(old, new)


def _at(host: str, path: str) -> str:
    if host:
        return f"https://{host}{path}"
    return path
