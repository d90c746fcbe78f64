"""What an address answered on the web, besides a page or a file."""

from __future__ import annotations

from msgspec import Struct


class WebAnswer(Struct, frozen=True):
    """What an address answered besides a page or a file."""

    address: str
    status: int  # of HTTP (RFC 9110 section 15)
    target: str = ""  # of a redirect, absolute
    date: str = ""  # ISO 8601
