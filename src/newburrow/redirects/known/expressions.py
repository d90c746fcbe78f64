"""Expressions of server configurations that are for one text alone."""

from __future__ import annotations

import re

_PLAIN = re.compile(r"\^?(?P<text>(?:[\w/~%=&;:@,+ -]|\\.)*)\$")
_PARAMETER = re.compile(
    r"(?:\^|\\b|\(\?:\^\|&\)|\(\^\|&\)|\(\?:\.\*&\)\?|\^\(\?:\.\*&\)\?)(?P<pairs>(?:[\w.~%-]|\\[.-])+=(?:[\w.~%+-]|\\[.-])*"
    r"(?:&(?:[\w.~%-]|\\[.-])+=(?:[\w.~%+-]|\\[.-])*)*)(?:\$|\\b|\(\?:&\|\$\)|\(&\|\$\)|\(\?:\$\|&\)|\(\$\|&\))"
)
_HOST = re.compile(r"\^?(?:\(\?:www\\\.\)\?|\(www\\\.\)\?)?(?P<host>(?:[\w-]|\\?\.)+)\$?")
_LETTER = re.compile(r"\\(?P<letter>[A-Za-z])")


def only_path(expression: str) -> str:
    """The one path that an expression matches, with its slash; empty where there are several, or none."""
    found = _PLAIN.fullmatch(expression)
    if found is None or not expression.startswith("^") or _LETTER.search(found["text"]):
        return ""
    return "/" + re.sub(r"\\(.)", r"\1", found["text"]).removeprefix("/")


def only_query(expression: str) -> str:
    """The parameters that an expression for a query asks for; empty where it asks for more than values."""
    found = _PARAMETER.fullmatch(expression)
    if found:
        return found["pairs"].replace("\\", "")
    return ""


def only_host(expression: str) -> str:
    """The one host, with or without `www.`, that an expression matches; empty where there are several."""
    found = _HOST.fullmatch(expression)
    if found:
        return found["host"].replace("\\", "").removeprefix("www.")
    return ""
