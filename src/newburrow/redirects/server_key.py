"""An old address as a server sees it: its decoded path, and one parameter of its query."""

from __future__ import annotations

import re
from urllib.parse import unquote_to_bytes

from msgspec import Struct

from newburrow.core import url
from newburrow.store.journal.rows import GONE, UNCHANGED, OldAddress

GONE_WORD, PASS_WORD = "gone", "pass"
_PLAIN = re.compile(r"[^/?%]+(/[^?%]*)(?:\?([A-Za-z0-9_]+)=([A-Za-z0-9._~-]*))?\Z")
_NUMBERED = {
    n: f"\\x{n:02x}"
    for n in range(256)
    if not (n < 128 and (chr(n).isalnum() or chr(n) in "/-_"))
}
_NAME = re.compile(r"[A-Za-z0-9_]+\Z")


class Key(Struct, frozen=True):
    """What a server compares."""

    path: bytes  # decoded
    parameter: str = ""  # name of the one query parameter
    value: str = ""  # of it, as addresses are compared


def key_of(row: OldAddress, merged: bool = True) -> Key | None:
    """The key of an old address; None for one with several parameters, or a NUL, which no server looks up.

    Most servers see several slashes as one; `merged` is for those.
    """
    text = row.spelled
    if (plain := _PLAIN.match(text)) and "//" not in text:  # most are
        return Key(plain[1].encode(), plain[2] or "", plain[3] or "")
    host, slash, path_part = text.partition("/")
    if not host:
        return None
    path, _mark, query = path_part.partition("?")
    raw = unquote_to_bytes(slash + path)
    if merged:
        raw = re.sub(rb"/{2,}", b"/", raw)
    pairs = url.query_pairs(query)
    if b"\0" in raw or len(pairs) > 1 or (pairs and not _NAME.match(pairs[0][0])):
        return None
    if pairs:
        return Key(raw, *pairs[0])
    return Key(raw)


def site_of(row: OldAddress) -> str:
    """The site of an old address, as sites are compared."""
    return row.key.partition("/")[0]


def word_for(row: OldAddress) -> str:
    """What a server's table has for an old address: the new address in ASCII, or one of our words.

    `GONE_WORD` is for an address that is gone, `PASS_WORD` for one that stays as it is.
    """
    if row.status == UNCHANGED:
        return PASS_WORD
    if row.status == GONE:
        return GONE_WORD
    return url.safe(row.new)


def exactly(raw: bytes) -> str:
    """A regular expression (PCRE) that matches exactly these bytes; all but plain letters are escaped by number."""
    return raw.decode("latin-1").translate(_NUMBERED)


def shown(text: str) -> str:
    """An address made safe for a comment of a configuration file."""
    return "".join(c if c.isprintable() else "?" for c in url.safe(text))[:500]
