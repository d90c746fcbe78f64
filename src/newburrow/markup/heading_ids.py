"""The ids that hosts give to headings, made of their words: links within and between pages lead to them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from selectolax.lexbor import LexborNode

from newburrow.markup.base import section_id
from newburrow.markup.html import Fragment

_HEADINGS = "h1, h2, h3, h4, h5, h6"


def give(fragment: Fragment) -> None:
    """Give each heading of a text the id of its words, unless it has one."""
    for node, own in _of_words(fragment):
        if not node.attributes.get("id"):
            node.attrs["id"] = own


def leave_out(fragment: Fragment) -> None:
    """Take the ids away that a host gives by itself."""
    for node, own in _of_words(fragment):
        if node.attributes.get("id") == own:
            del node.attrs["id"]


def _of_words(fragment: Fragment) -> Iterator[tuple[LexborNode, str]]:
    """Each heading with words, and its id: the second of the same words has `-1` at its end, the third `-2`."""
    seen = Counter[str]()
    for node in fragment.select(_HEADINGS):
        own = section_id(node.text() or "")
        if not own:
            continue
        number = seen[own]
        seen[own] += 1
        yield node, f"{own}-{number}" if number else own
