"""Addresses that a text shows without being links, which readers of Markdown make links of."""

from __future__ import annotations

import re
from collections.abc import Iterator

ADDRESS = re.compile(
    r"(?<![\w@./:<-])(?:https?://|www\.(?=[\w-]+\.))[^\s<>\x00-\x1f]+", re.IGNORECASE
)
_TRAILING = re.compile(r"(?:[?!.,:;*_~'\"]|&[a-z]+;)+$")


def trimmed(address: str) -> str:
    """An address without the signs after it, and without a bracket that was opened before it."""
    while True:
        shorter = _TRAILING.sub("", address)
        if shorter.endswith(")") and shorter.count(")") > shorter.count("("):
            shorter = shorter[:-1]
        if shorter == address:
            return address
        address = shorter


def target(address: str) -> str:
    """Where such an address leads."""
    if "://" in address:
        return address
    return f"http://{address}"


def targets(text: str) -> Iterator[str]:
    """Where the addresses in a text lead."""
    for found in ADDRESS.finditer(text):
        yield target(trimmed(found[0]))
