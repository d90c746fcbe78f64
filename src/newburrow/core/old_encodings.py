"""Addresses whose letters are percent-encoded in another encoding than UTF-8, as many sites had them."""

from __future__ import annotations

from collections.abc import Iterator
from urllib.parse import quote, unquote_to_bytes

from newburrow.core import url

# Encodings of web pages (Encoding Standard, section 4.2) in which octets are letters of several scripts.
_ENCODINGS = (
    "windows-1252", "shift_jis", "euc_jp", "euc_kr", "gb18030", "big5", "windows-1251", "koi8_r",
    "windows-1250", "iso8859_2", "windows-1253", "windows-1254", "windows-1255", "windows-1256", "cp437", "cp866",
)  # fmt: skip
_SAFE = "/!$&'()*+,;=:@?"


def as_utf8(address: str) -> Iterator[str]:
    """The address with its path and query in UTF-8, by each encoding in which they can be read.

    The encoding is unknown, so the caller must check which of the results exists. Yields nothing for an address that
    is in UTF-8 already, as all are today (URL Standard, section 4.1).
    """
    parts = url.split(address)
    if parts is None or "%" not in address:
        return
    path, query = unquote_to_bytes(parts.path), unquote_to_bytes(parts.query)
    if _is_utf8(path) and _is_utf8(query):
        return
    seen = set[str]()
    for encoding in _ENCODINGS:
        try:
            texts = [octets.decode(encoding) for octets in (path, query)]
        except UnicodeDecodeError:
            continue
        quoted_path, quoted_query = (quote(text, safe=_SAFE) for text in texts)
        found = parts._replace(path=quoted_path, query=quoted_query).geturl()
        if found not in seen:
            seen.add(found)
            yield found


def _is_utf8(octets: bytes) -> bool:
    try:
        octets.decode()
    except UnicodeDecodeError:
        return False
    return True
