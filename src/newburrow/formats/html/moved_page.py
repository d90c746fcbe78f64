"""Pages that only lead on to another: their addresses are further ones of that page."""

from __future__ import annotations

from selectolax.lexbor import LexborNode

from newburrow.core import web_refresh
from newburrow.formats.html.document import Document, text_of

_MOST_WORDS = 60  # on a page that says no more than where it leads


def target(document: Document) -> str:
    """The address that a page leads on to by itself; empty for a page with a text of its own."""
    for node in document.all('meta[http-equiv="refresh" i][content]'):
        leads_to = web_refresh.target_of(node.attributes.get("content") or "")
        if not leads_to or _is_for_few(node):
            continue
        body = document.first("body")
        if body is not None and len(text_of(body).split()) > _MOST_WORDS:
            return ""
        address = document.resolved(leads_to)
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
