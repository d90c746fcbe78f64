"""An old address as a server sees it: its decoded path, and the parameters of its query that have to be there."""

from __future__ import annotations

import re
from functools import lru_cache
from itertools import permutations
from urllib.parse import unquote_to_bytes

from msgspec import Struct

from newburrow.core import url
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress

GONE_WORD, PASS_WORD = "gone", "pass"
_PLAIN = re.compile(
    r"[^/?%]+(/[^?%]*+(?:%20[^?%]*+)*+)(?:\?([a-z0-9_]+)=([A-Za-z0-9._~-]+))?\Z"
)
_NUMBERED = {
    n: f"\\x{n:02x}"
    for n in range(256)
    if not (n < 128 and (chr(n).isalnum() or chr(n) in "/-_"))
}
_NAME = re.compile(r"[a-z0-9_]+\Z")
_VALUE = re.compile(r"[A-Za-z0-9._~-]+\Z")
_UNRESERVED = frozenset(b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~")
BY_NUMBER = r"localhost|[0-9]+(?:\.[0-9]+){3}|\[[0-9a-f:.]+\]"  # what a server without a name is asked by
_MOST_ORDERED = 3  # parameters that are looked for in each order


class Key(Struct, frozen=True):
    """What a server compares: a request has this path and each of these parameters; others may be there too."""

    path: bytes  # decoded
    pairs: tuple[
        tuple[str, str], ...
    ] = ()  # names and values as addresses are compared, sorted

    @property
    def is_plain(self) -> bool:
        """Whether each name and value is of letters that no browser encodes, so that they are compared as they are."""
        return all(_NAME.match(name) and _VALUE.match(value) for name, value in self.pairs)

    @property
    def names(self) -> tuple[str, ...]:
        """The names of the parameters."""
        return tuple(name for name, _value in self.pairs)

    @property
    def query(self) -> str:
        """The parameters as one text, after a question mark; empty without any."""
        if self.pairs:
            return "?" + "&".join(f"{name}={value}" for name, value in self.pairs)
        return ""


def key_of(row: OldAddress, merged: bool = True) -> Key | None:
    """The key of an old address; None for one that no server can look up.

    That is one with a NUL, one with a parameter twice, and one that is redirected to what the server sees
    as the same address. Most servers see several slashes as one; `merged` is for those.
    """
    key = _key(row.spelled, merged)
    # most lead to another host
    is_inner = row.status == REDIRECTED and row.new_key.startswith(f"{site_of(row)}/")
    if key and is_inner and _leads_to_itself(row, key, merged):
        return None
    return key


def _leads_to_itself(row: OldAddress, key: Key, merged: bool) -> bool:
    target = _key(OldAddress.of(row.new, "", GONE, "", row.new_key).spelled, merged)
    return (
        target is not None and target.path == key.path and set(key.pairs) <= set(target.pairs)
    )


def _key(text: str, merged: bool) -> Key | None:
    if (plain := _PLAIN.match(text)) and "//" not in text:  # most are
        path = plain[1].replace("%20", " ").encode()
        return Key(path, ((plain[2], plain[3]),) if plain[2] else ())
    host, slash, path_part = text.partition("/")
    if not host:
        return None
    path, _mark, query = path_part.partition("?")
    raw = unquote_to_bytes(slash + path)
    if merged:
        raw = re.sub(rb"/{2,}", b"/", raw)
    pairs = tuple(sorted(url.query_pairs(query)))
    if b"\0" in raw or "%00" in query or len(dict(pairs)) < len(pairs) or not all(dict(pairs)):
        return None
    return Key(raw, pairs)


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


def asks_for(pairs: tuple[tuple[str, str], ...]) -> str:
    """An expression (PCRE) at the start of a query that has all these parameters, in any order and spelling."""
    return "".join(f"(?=(?:.*&)?{_parameter(name, value)}(?:&|$))" for name, value in pairs)


def asks_in_order(pairs: tuple[tuple[str, str], ...]) -> str:
    """The same for servers whose expressions cannot look ahead (RE2): each order apart; empty for too many."""
    if len(pairs) > _MOST_ORDERED:
        return ""
    orders = [
        "&(?:.*&)?".join(_parameter(*pair) for pair in order) for order in permutations(pairs)
    ]
    return f"(?:.*&)?(?:{'|'.join(orders)})(?:&.*)?"


def _parameter(name: str, value: str) -> str:
    if not value:
        return f"{_spelled(name)}=?"
    return f"{_spelled(name)}={_spelled(value)}"


@lru_cache(maxsize=4096)
def _spelled(text: str) -> str:
    """An expression for a name or a value in each spelling that a browser or a person gives it."""
    return "".join(map(_byte, unquote_to_bytes(text)))


def _byte(byte: int) -> str:
    if byte in _UNRESERVED:
        return exactly(bytes((byte,)))
    encoded = "".join(
        f"[{digit}{digit.upper()}]" if digit.isalpha() else digit for digit in f"{byte:02x}"
    )
    if byte == 32:
        return r"(?:\+|%20)"
    # Signs that divide a query, and what no request holds, are always encoded.
    if byte < 33 or byte > 126 or byte in b"&=#+%":
        if byte > 126 or byte in b"=":
            return f"(?:%{encoded}|\\x{byte:02x})"
        return f"%{encoded}"
    return f"(?:%{encoded}|\\x{byte:02x})"


def is_at(site: str, by_number: bool = False) -> str:
    """An expression for the Host of a request to a site, with or without `www.` and a port.

    A server that is asked `by_number` is being tried out, before the name of the site leads to it.
    """
    host = rf"(?:www\.)?{re.escape(site.partition(':')[0])}\.?"
    if by_number:
        return f"^(?:{host}|{BY_NUMBER})(?::[0-9]+)?$"
    return f"^(?:{host})(?::[0-9]+)?$"


def shown(text: str) -> str:
    """An address made safe for a comment of a configuration file."""
    return "".join(c if c.isprintable() else "?" for c in url.safe(text))[:500]
