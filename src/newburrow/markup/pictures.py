"""Pictures that stand in a text as objects or embeds: they become what they are, `<img>`."""

from __future__ import annotations

import html
import mimetypes
import re

from selectolax.lexbor import LexborNode

from newburrow.core import url
from newburrow.markup.html import Fragment, replace

_HOLDERS = {"object": "data", "embed": "src"}  # and where their address is
_HINT = re.compile(r"<(?:object|embed)\b", re.IGNORECASE)
_NUMBER = re.compile(r"[0-9]{1,5}")


def as_images(text: str) -> str:
    """The HTML text with its pictures as `<img>`. One that is nested beyond reason stays as it is."""
    fragment = Fragment.holding(_HINT, text)
    if fragment is None:
        return text
    found = [node for node in fragment.select(",".join(_HOLDERS)) if _shows_picture(node)]
    # The outermost last: what it holds is another picture of the same.
    for node in reversed(found):
        replace(node, _image(node))
    if found:
        return fragment.html()
    return text


def _address(node: LexborNode) -> str:
    return (node.attributes.get(_HOLDERS[node.tag or ""]) or "").strip()


def _shows_picture(node: LexborNode) -> bool:
    """By its type (HTML standard section 4.8.7), or without one by the name of its file."""
    address, stated = _address(node), (node.attributes.get("type") or "").strip().lower()
    if not address or address.startswith("data:"):
        return False
    if stated:
        return stated.startswith("image/")
    guessed = mimetypes.guess_type(url.path_of(address) or address.partition("?")[0])[0] or ""
    return guessed.startswith("image/")


def _image(node: LexborNode) -> str:
    attributes = node.attributes
    inner = node.css_first("img[alt]")
    alternative = (
        attributes.get("title")
        or attributes.get("aria-label")
        or (inner.attributes.get("alt") if inner is not None else "")
        or " ".join((node.text() or "").split())
    )
    kept = "".join(
        f' {name}="{value}"'
        for name in ("width", "height")
        if _NUMBER.fullmatch(value := attributes.get(name) or "")
    )
    return f'<img src="{html.escape(_address(node))}" alt="{html.escape(alternative)}"{kept}>'
