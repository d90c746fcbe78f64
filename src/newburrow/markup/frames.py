"""Frames, embeds and objects that show no page of their own: they become what a reader sees in their place."""

from __future__ import annotations

import base64
import binascii
import html
import re
from urllib.parse import unquote_to_bytes

from selectolax.lexbor import LexborHTMLParser, LexborNode

from newburrow.markup.addresses import LAZY
from newburrow.markup.html import Fragment, replace

_ADDRESS = {"iframe": "src", "embed": "src", "object": "data"}
_HINT = re.compile(r"<(?:iframe|embed|object)\b", re.IGNORECASE)
_PAGE_IN_ADDRESS = re.compile(r"data:text/html\b", re.IGNORECASE)
_NAMES_OF_ADDRESS = ("movie", "src", "data", "url", "filename")  # of parameters of old plug-ins


def as_shown(text: str) -> str:
    """The HTML text without frames that are empty; one that holds its page itself is replaced by what that shows.

    An object without an address is replaced by what stands in it for readers who cannot see it, or by its parameters'
    film (HTML standard sections 4.8.5 to 4.8.7). A text that is nested beyond reason stays as it is.
    """
    fragment = Fragment.holding(_HINT, text)
    if fragment is None:
        return text
    is_changed = False
    # The outermost last, so that what they hold is as it is shown.
    for node in reversed(fragment.select(",".join(_ADDRESS))):
        shown = _shown(node)
        if shown is not None:
            is_changed = True
            replace(node, shown)
    if is_changed:
        return fragment.html()
    return text


def without_frames(node: LexborNode) -> str:
    """What stands in an object for readers who cannot see it, as HTML without further frames; empty if nothing does."""
    fragment = Fragment(node.inner_html or "")
    for inner in fragment.select("param,video,audio," + ",".join(_ADDRESS)):
        inner.decompose()
    if not fragment.words().strip() and not fragment.select("img"):
        return ""
    return fragment.html().strip()


def _shown(node: LexborNode) -> str | None:
    """What is seen in place of an element; None if it shows the page at its address."""
    tag, attributes = node.tag or "", node.attributes
    address = (attributes.get(_ADDRESS[tag]) or "").strip()
    inner = _page_in(address)
    is_lazy = any((attributes.get(name) or "").strip() for name in LAZY)
    if inner is None and (is_lazy or not _is_empty(address)):
        return None
    if inner is None and tag == "iframe":
        inner = attributes.get("srcdoc") or ""
    if inner is not None:
        body = LexborHTMLParser(inner).body
        if body is not None:
            shown = as_shown((body.inner_html or "").strip())
        else:
            shown = ""
        if shown:
            return f"<div>{shown}</div>"
        return ""
    if tag == "object":
        return _in_object(node)
    return ""


def _is_empty(address: str) -> bool:
    return not address or address.startswith("#") or address.lower().startswith("about:")


def _page_in(address: str) -> str | None:
    """The HTML of an address that holds a page itself (RFC 2397); None for any other."""
    if not _PAGE_IN_ADDRESS.match(address):
        return None
    head, _comma, data = address.partition(",")
    content = unquote_to_bytes(data)
    if head.lower().rstrip().endswith(";base64"):
        try:
            content = base64.b64decode(content)
        except binascii.Error:
            return None
    return content.decode("utf-8", "replace")


def _in_object(node: LexborNode) -> str:
    """What an object without an address shows: what stands in it, or the film that its parameters name."""
    parameters = {
        (inner.attributes.get("name") or "").lower(): inner.attributes.get("value") or ""
        for inner in node.css("param")
    }
    for inner in node.css("param"):
        inner.decompose()
    shown = (node.inner_html or "").strip()
    film = next(filter(None, map(parameters.get, _NAMES_OF_ADDRESS)), "")
    if not shown and film:
        shown = f'<embed src="{html.escape(film)}">'
    return shown
