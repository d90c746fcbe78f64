"""The candidates of a `srcset` attribute (HTML standard section 2.3.10 and 4.8.4.2)."""

from __future__ import annotations

import re

_BEFORE = re.compile(r"[ \t\n\r\f,]*")
_ADDRESS = re.compile(r"[^ \t\n\r\f]+")


def candidates(value: str) -> list[tuple[str, str]]:
    """Address and descriptors of each candidate; descriptors can be empty.

    An address may hold commas, as a `data:` address does; one at its end is not part of it.
    """
    found, place = list[tuple[str, str]](), 0
    while True:
        before = _BEFORE.match(value, place)
        if before:
            place = before.end()
        else:
            place = place
        address = _ADDRESS.match(value, place)
        if not address:
            return found
        place, text = address.end(), address[0]
        if text.endswith(","):
            found.append((text.rstrip(","), ""))
            continue
        descriptors, place = _descriptors(value, place)
        found.append((text, descriptors))


def _descriptors(value: str, place: int) -> tuple[str, int]:
    """What follows an address up to the comma that is not in brackets, and where that ends."""
    depth = 0
    for end in range(place, len(value)):
        if value[end] == "(":
            depth += 1
        elif value[end] == ")":
            depth = max(0, depth - 1)
        elif value[end] == "," and not depth:
            return " ".join(value[place:end].split()), end + 1
    return " ".join(value[place:].split()), len(value)


def written(found: list[tuple[str, str]]) -> str:
    """Candidates as the value of an attribute; a comma at the ends of an address is encoded."""
    return ", ".join(
        f"{_encoded(address)} {descriptors}".strip() for address, descriptors in found
    )


def _encoded(address: str) -> str:
    start, end = len(address) - len(address.lstrip(",")), len(address.rstrip(","))
    if start >= end:
        return address.replace(",", "%2C")
    return "%2C" * start + address[start:end] + "%2C" * (len(address) - end)
