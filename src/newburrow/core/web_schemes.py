"""Schemes of addresses (RFC 3986 3.1): those that may stand in a page, and those that run a script."""

from __future__ import annotations

import re

SAFE_SCHEMES = frozenset(
    """
    http https mailto tel sms ftp ftps sftp irc ircs xmpp sip sips geo news nntp magnet webcal callto matrix
    urn doi gemini gopher feed ssh git svn skype facetime maps market itms spotify steam bitcoin ed2k aim
    """.split()  # noqa: SIM905 (a list of one word a line would hide them)
)
# What a `data:` address of a picture of pixels begins with; an SVG could hold a script.
RASTER_DATA = r"data:image/(?:png|p?jpe?g|gif|webp|avif|bmp|x-icon|vnd\.microsoft\.icon)[;,]"
_RASTER = re.compile(RASTER_DATA, re.IGNORECASE)
_SCHEME = re.compile(r"([a-z][a-z0-9+.-]*):", re.IGNORECASE)
# Browsers pass over these wherever they stand in a scheme (URL Standard, basic URL parser).
_PASSED_OVER = re.compile(r"[\x00-\x20\x7f-\xa0\u200b-\u200f\u2028-\u202e\ufeff]")
_RUNS = frozenset(
    ("javascript", "vbscript", "livescript", "mocha", "jscript", "data", "blob", "filesystem", "view-source", "about")
)  # fmt: skip


def runs_script(address: str) -> bool:
    """Whether following an address could run a script; a picture of pixels within an address cannot."""
    if address.startswith(("http://", "https://", "/")):
        return False
    if ":" not in address:
        return False
    bare = _PASSED_OVER.sub("", address[:4096])
    found = _SCHEME.match(bare)
    if not found or found[1].lower() not in _RUNS:
        return False
    return not _RASTER.match(bare)
