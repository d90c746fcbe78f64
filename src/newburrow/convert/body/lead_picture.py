"""The lead picture of an entry in its body: shown there for a host without such pictures, or not shown twice."""

from __future__ import annotations

import html

from selectolax.lexbor import LexborNode

from newburrow.markup.html import Fragment
from newburrow.model import Media

_HOLDERS = ("a", "figure", "p", "picture")


def insert(fragment: Fragment, lead: Media) -> None:
    """Insert the lead picture at the beginning, unless the body shows it already."""
    shown = (node.attributes.get("src") for node in fragment.select("img"))
    if lead.address in shown:
        return
    caption = ""
    if lead.caption:
        caption = f"<figcaption>{html.escape(lead.caption, quote=False)}</figcaption>"
    fragment.prepend(
        f'<figure><img src="{html.escape(lead.address)}" '
        f'alt="{html.escape(lead.alternative_text)}">{caption}</figure>'
    )


def remove(fragment: Fragment, lead: Media) -> bool:
    """Remove the lead picture from the beginning of a body that the host shows it above; whether it was there."""
    first = next(iter(fragment.select("img")), None)
    if first is None or first.attributes.get("src") != lead.address or not _opens(first):
        return False
    holder = first
    while holder.parent is not None and holder.parent.tag in _HOLDERS:
        words = (holder.parent.text() or "").strip()
        if words and not (holder.parent.tag == "figure" and words == lead.caption.strip()):
            break
        holder = holder.parent
    holder.decompose()
    return True


def _opens(picture: LexborNode) -> bool:
    """Whether a picture comes before anything that a reader sees."""
    at: LexborNode | None = picture
    while at is not None:
        before = at.prev
        while before is not None:
            if (before.text() or "").strip() and before.tag != "-comment":
                return False
            before = before.prev
        at = at.parent
    return True
