"""The form in which addresses are compared."""

from __future__ import annotations

from newburrow.core import url


def compared(address: str, base: str) -> str:
    """An address as addresses of links are compared: absolute, by its key; a fragment of the page alone stays."""
    if address.startswith("#"):
        return address
    whole = address
    if base:
        whole = url.resolve(base, address)
    page, mark, fragment = whole.partition("#")
    return (url.key(whole) or page) + mark + fragment
