"""Sections of pages, for a host whose markup marks headings alone: links name them by the words of these."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache
from urllib.parse import quote, unquote

from selectolax.lexbor import LexborNode

from newburrow.core import plugins, url
from newburrow.markup import heading_ids
from newburrow.markup.base import Markup, NameLookup, Unreadable, section_id
from newburrow.markup.html import Fragment, TooDeep
from newburrow.markup.html_tags import HEADINGS
from newburrow.model import Entry

_REMEMBERED = 256  # pages whose sections are kept in memory
# Name of a place on the old page -> id of its heading on the new one; empty for a place that is not a heading.
Places = Mapping[str, str]


class Sections:
    """The sections of the pages of the old site, by the new address of a page."""

    def __init__(
        self,
        entry_at: Callable[[str], Entry | None],
        names_at: Callable[[str], NameLookup],
        with_ids: frozenset[str],
    ) -> None:
        """`entry_at` gives the entry of the old site that goes to an address, by its key.

        `names_at` gives what names mean on the page at an old address.
        `with_ids` has the markups in which the old host gave each heading an id made of its words.
        """
        self._entry_at, self._names_at, self._with_ids = entry_at, names_at, with_ids
        self._at = lru_cache(_REMEMBERED)(self._read)

    def renamed(self, address: str, own: Places) -> str | None:
        """A new address with a fragment as the new host names that section; None where it has no such place.

        `own` has the places of the page that the link is on. A fragment that no text of a page has stays: the
        layout of a site may have put it there.
        """
        page, _mark, fragment = address.partition("#")
        places = self._at(page) if page else own
        found = next(
            (places[name] for name in (fragment, unquote(fragment)) if name in places), None
        )
        if found is None:
            return address
        return f"{page}#{quote(found, safe='')}" if found else None

    def _read(self, page: str) -> Places:
        entry = self._entry_at(url.key(page))
        if entry is None:
            return {}
        markup: Markup = plugins.get(plugins.MARKUPS, entry.body.markup)
        names = self._names_at(entry.permalink)
        try:
            fragment = Fragment(markup.to_html(entry.body.text, names))
        except (Unreadable, TooDeep):
            return {}
        if markup.name in self._with_ids:
            heading_ids.give(fragment)
        return places_of(fragment)


def places_of(fragment: Fragment) -> Places:
    """The places of a text that a fragment of an address can lead to (HTML standard section 7.4.6.3)."""
    places: dict[str, str] = {}
    firsts = dict[str, int]()  # id -> the first heading of these words, which alone it leads to
    for node in fragment.select(", ".join(HEADINGS)):
        firsts.setdefault(section_id(node.text() or ""), node.mem_id)
    for node in fragment.select("[id], a[name]"):
        heading, named = _heading_at(node), ""
        if heading is not None:
            words = section_id(heading.text() or "")
            named = words if firsts[words] == heading.mem_id else ""
        for attribute in ("id", "name"):
            if name := node.attributes.get(attribute):
                places.setdefault(name, named)
    return places


def _heading_at(node: LexborNode) -> LexborNode | None:
    """The heading that stands at a place: around it, right after it, or as the first thing in it."""
    above: LexborNode | None = node
    while above is not None:
        if above.tag in HEADINGS:
            return above
        above = above.parent
    beside = [next(node.iter(), None)]
    if not (node.text() or "").strip():
        beside.append(_next_element(node))
    return next((found for found in beside if found and found.tag in HEADINGS), None)


def _next_element(node: LexborNode) -> LexborNode | None:
    """What follows an element, but for blank text; of one alone in a paragraph what follows that."""
    after = node.next
    while after is not None and after.is_text_node and not (after.text() or "").strip():
        after = after.next
    parent = node.parent
    if after is None and parent is not None and parent.tag == "p":
        return _next_element(parent)
    return after
