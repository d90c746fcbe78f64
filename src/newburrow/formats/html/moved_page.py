"""Pages that only lead on to another: their addresses are further ones of that page."""

from __future__ import annotations

import re

from selectolax.lexbor import LexborNode

from newburrow.formats.html.document import Document, text_of

# The content of `<meta http-equiv=refresh>` (HTML standard section 4.2.5.3).
_REFRESH = re.compile(
    r"\s*(\d*)(?:\.[\d.]*)?\s*[;,\s]\s*(?:url\s*=)?\s*(['\"]?)(.+?)\2\s*",
    re.IGNORECASE | re.DOTALL,
)
_LONGEST_WAIT = (
    10  # seconds after which a reader is led on; a page with more may be meant to be read
)
_MOST_WORDS = 60  # on a page that says no more than where it leads


def target(document: Document) -> str:
    """The address that a page leads on to by itself; empty for a page with a text of its own."""
    for node in document.all('meta[http-equiv="refresh" i][content]'):
        found = _REFRESH.fullmatch(node.attributes.get("content") or "")
        if found is None or int(found[1] or 0) > _LONGEST_WAIT or _is_for_few(node):
            continue
        body = document.first("body")
        if body is not None and len(text_of(body).split()) > _MOST_WORDS:
            return ""
        address = document.resolved(found[3])
        is_self = address.partition("#")[0] in (document.address, document.shown_address)
        if is_self:
            return ""
        return address
    return ""


def _is_for_few(node: LexborNode) -> bool:
    """Whether an element counts only where scripts are off."""
    above = node.parent
    while above is not None and above.tag != "noscript":
        above = above.parent
    return above is not None
