"""Redirects in the configuration of Apache httpd, or in a folder's own file (mod_alias, mod_rewrite)."""

from __future__ import annotations

import re
import shlex
from collections.abc import Iterator
from typing import TextIO

from msgspec import Struct, field

from newburrow.model import Where
from newburrow.redirects.known.expressions import only_host, only_path, only_query
from newburrow.redirects.known.found import (
    GONE,
    REDIRECTS,
    Found,
    KnownUrl,
    OldRule,
    not_understood,
    of_rule,
)

_STATUSES = {"permanent": "301", "temp": "302", "seeother": "303", "gone": GONE}
_DIRECTIVES = {
    "redirect": "302",
    "redirectpermanent": "301",
    "redirecttemp": "302",
    "redirectmatch": "302",
}
_USED_FLAGS = {
    "L",
    "NC",
    "NOCASE",
    "NE",
    "NOESCAPE",
    "QSA",
    "QSD",
    "END",
    "LAST",
    "R",
    "G",
    "B",
}
_LONG_FLAGS = {"REDIRECT": "R", "GONE": "G", "F": "F", "FORBIDDEN": "F"}
# Blocks whose directives hold for all requests, or for a host that is named in them.
_OPEN_BLOCKS = {"ifmodule", "virtualhost", "directory"}
_VARIABLE = re.compile(r"%\{\w+\}|%\d")


class _Condition(Struct, frozen=True):
    """What has to hold for the next rule."""

    variable: str
    expression: str
    flags: str


class _State(Struct):
    """Where in a configuration the reader is."""

    blocks: list[str] = field(default_factory=list)
    host: str = ""  # of the virtual host
    base: str = "/"
    conditions: list[_Condition] = field(default_factory=list)


def read(text: TextIO, file: str) -> Found:
    """The redirects in a configuration: known addresses, rules for many, and a problem for each that is not used."""
    state = _State()
    for number, line in _lines(text):
        where = Where(file, number)
        try:
            name, *words = shlex.split(line.replace("\\", "\\\\"), comments=False)
        except ValueError:
            if re.match(r"\s*(redirect|rewrite)", line, re.IGNORECASE):
                yield not_understood(line, "its quotes do not match", where)
            continue
        yield from _directive(name.lower(), words, line, state, where)


def _lines(text: TextIO) -> Iterator[tuple[int, str]]:
    """The directives, each with the number of its first line; a backslash at the end joins lines."""
    joined, first = "", 0
    for number, line in enumerate(text, 1):
        first = first or number
        stripped = line.rstrip("\r\n")
        if stripped.endswith("\\"):
            joined += stripped[:-1] + " "
            continue
        joined = (joined + stripped).strip()
        if joined and not joined.startswith("#"):
            yield first, joined
        joined, first = "", 0


def _directive(name: str, words: list[str], line: str, state: _State, where: Where) -> Found:
    if name.startswith("</"):
        if state.blocks and state.blocks.pop() == "virtualhost":
            state.host = ""
    elif name.startswith("<"):
        state.blocks.append(name.strip("<>"))
    elif name == "servername" and words:
        state.host = words[0].partition(":")[0].removeprefix("www.")
    elif name == "rewritebase" and words:
        state.base = words[0].rstrip("/") + "/"
    elif name == "rewritecond" and len(words) >= 2:
        state.conditions.append(_Condition(words[0], words[1], "".join(words[2:3])))
    elif name in _DIRECTIVES or name == "rewriterule":
        conditions, state.conditions = state.conditions, []
        block = next((block for block in state.blocks if block not in _OPEN_BLOCKS), "")
        if block:
            yield not_understood(line, f"it stands in <{block}>", where)
        elif name == "rewriterule":
            yield from _rewrite(words, conditions, line, state, where)
        else:
            yield from _redirect(name, words, line, state, where)


def _redirect(name: str, words: list[str], line: str, state: _State, where: Where) -> Found:
    status = _DIRECTIVES[name]
    if words and (words[0].lower() in _STATUSES or words[0].isdigit()):
        status = _STATUSES.get(words[0].lower(), words[0])
        words = words[1:]
    if len(words) != 1 + (status != GONE) or status not in {*REDIRECTS, GONE}:
        if status in {*REDIRECTS, GONE}:
            yield not_understood(line, "it has another number of words", where)
        return
    old, new = words[0], "".join(words[1:])
    if name == "redirectmatch":
        yield from _of_expression(old, new, line, state.host, "", where)
        return
    yield KnownUrl(_at(state.host, old), new, is_gone=status == GONE)
    if status != GONE:  # what is below it goes along
        below = f"^{re.escape(old.rstrip('/'))}/(.+)$"
        yield OldRule(below, f"{new.rstrip('/')}/$1")


def _rewrite(
    words: list[str], conditions: list[_Condition], line: str, state: _State, where: Where
) -> Found:
    if len(words) < 2:
        return
    expression, target = words[:2]
    flags = _flags("".join(words[2:3]))
    if not flags.keys() & {"R", "G"} and not target.startswith(("http://", "https://")):
        return  # what it answers has the same address
    status = GONE if "G" in flags else flags.get("R") or "302"
    if status == GONE:
        target = ""
    if status not in {*REDIRECTS, GONE}:
        return
    host, query, why = _asked(conditions)
    if why := why or _strange(expression, target, flags):
        yield not_understood(line, why, where)
        return
    if target and not target.startswith(("/", "http://", "https://")):
        target = state.base + target
    if "NC" in flags:
        expression = f"(?i){expression}"
    if query and target and "QSD" not in flags and "?" not in target:
        target = f"{target}?{query}"  # httpd passes it on
    target = target.removesuffix("?")
    yield from _of_expression(expression, target, line, host or state.host, query, where)


def _flags(words: str) -> dict[str, str]:
    """The flags of a rule by their short names, with their values."""
    flags = {}
    for flag in filter(None, (word.strip() for word in words.strip("[]").split(","))):
        name, _, value = flag.partition("=")
        flags[_LONG_FLAGS.get(name.upper(), name.upper())] = _STATUSES.get(value, value)
    return flags


def _strange(expression: str, target: str, flags: dict[str, str]) -> str:
    """Why a rule is not understood; empty where it is."""
    if unknown := sorted(flags.keys() - _USED_FLAGS):
        return f"the flag {unknown[0]} is not understood"
    if _VARIABLE.search(target):
        return "its target holds a variable"
    if expression.startswith("!"):
        return "its expression is negated"
    return ""


def _asked(conditions: list[_Condition]) -> tuple[str, str, str]:
    """The host and the query that conditions ask for, and why they are not understood; empty where they are."""
    host = query = ""
    for condition in conditions:
        variable = condition.variable.upper()
        if not _flags(condition.flags).keys() <= {"NC"}:
            return "", "", "its conditions are joined by OR"
        if variable == "%{HTTP_HOST}" and (name := only_host(condition.expression)):
            host = name
        elif variable == "%{QUERY_STRING}" and (pairs := only_query(condition.expression)):
            query = f"{query}&{pairs}".strip("&")
        else:
            words = f"{condition.variable} {condition.expression}"
            return "", "", f"its condition is not understood ({words})"
    return host, query, ""


def _of_expression(
    expression: str, target: str, line: str, host: str, query: str, where: Where
) -> Found:
    """What an expression for a path says: one known address, or a rule for many."""
    path = only_path(expression)
    if path and not re.search(r"[$\\]\d", target):
        address = _at(host, path) + (f"?{query}" if query else "")
        yield KnownUrl(address, target, is_gone=not target)
    elif query or not target:
        why = "it is for many addresses" + (" with a query" if query else " that are gone")
        yield not_understood(line, why, where)
    else:
        yield from of_rule(expression, target, where)


def _at(host: str, path: str) -> str:
    if host and path.startswith("/"):
        return f"https://{host}{path}"
    return path
