"""How a body looks to a reader: a page for a sandboxed frame that runs nothing and asks nobody for anything."""

from __future__ import annotations

import base64
import html
from collections.abc import Callable

from newburrow.markup.html import Fragment, replace
from newburrow.markup.sanitiser import sanitised

PICTURES = 12  # of one preview
PICTURE_BYTES = 200_000  # of one of them
_LONGEST = 100_000  # characters of a text
_POLICY = "default-src 'none'; img-src data:; style-src 'unsafe-inline'"
_STYLE = (
    "body{font:15px/1.55 Georgia,'Noto Serif',serif;color:#23221e;background:#fff;margin:.8rem 1rem;"
    "overflow-wrap:anywhere}img{max-width:100%;height:auto}pre{white-space:pre-wrap;background:#f3f1ea;"
    "padding:.5rem}blockquote{margin-left:0;padding-left:1rem;border-left:3px solid #cfccc0}"
    "table{border-collapse:collapse}td,th{border:1px solid #cfccc0;padding:.2rem .5rem}"
    ".absent{display:inline-block;padding:.2rem .5rem;border:1px dashed #9a978a;color:#6b6a62}"
)

# Gives media type and bytes of the picture at an address; None where it is not at hand.
Picture = Callable[[str], "tuple[str, bytes] | None"]


def page(body: str, title: str, picture: Picture) -> str:
    """A whole HTML page that shows a body.

    `body` is HTML; what could run or load something is taken out of it. Pictures that `picture` knows are put into
    the page, others stand as a box with their alternative text.
    """
    cut = body[:_LONGEST]
    fragment = Fragment.of_any(cut)
    for node in fragment.select("script,style,noscript,template"):
        node.decompose()
    _show_pictures(fragment, picture)
    shown = sanitised(fragment.html(), frozenset(), lambda *_removed: None)
    if len(body) > len(cut):
        more = "<p class='absent'>The text goes on.</p>"
    else:
        more = ""
    return (
        f'<!DOCTYPE html><html lang=""><head><meta charset="utf-8"><title>{html.escape(title)}</title>'
        f'<meta http-equiv="Content-Security-Policy" content="{html.escape(_POLICY)}">'
        f"<style>{_STYLE}</style></head><body>{shown}{more}</body></html>"
    )


def _show_pictures(fragment: Fragment, picture: Picture) -> None:
    for node in fragment.select("img"):
        found = picture(node.attributes.get("src") or "")
        for name in ("srcset", "sizes", "loading"):
            if name in node.attributes:
                del node.attrs[name]
        if found:
            media_type, data = found
            node.attrs["src"] = f"data:{media_type};base64,{base64.b64encode(data).decode()}"
        else:
            replace(node, _box(node.attributes.get("alt") or "picture"))
    for node in fragment.select("iframe,video,audio,object,embed"):
        address = node.attributes.get("src") or node.attributes.get("data") or ""
        replace(node, _box(f"embed: {address}"))


def _box(words: str) -> str:
    """A box in place of what the preview does not load."""
    return f'<span class="absent">{html.escape(words)}</span>'
