"""Places within pages that links of the result lead to: whether they are still there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from urllib.parse import unquote

from newburrow.core import url
from newburrow.markup import heading_ids
from newburrow.markup.html import Fragment, TooDeep, flattened
from newburrow.model import Body, Entry
from newburrow.store.content_store import Store
from newburrow.store.journal.handed_over import HandedOver
from newburrow.store.met_records import MetRecords
from newburrow.verify.bodies import NewBodies, OldBodies, SiteBodies

_REMEMBERED = 256  # pages whose places are kept in memory
_DIRECTIVE = ":~:"  # what follows it is for the browser alone
_NOWHERE = frozenset[str]()


class Anchors:
    """The places within the pages of a result, as they were on the old site and as they are."""

    def __init__(
        self,
        records: MetRecords,
        handed: HandedOver,
        old: tuple[Store, OldBodies],
        new: NewBodies,
        with_heading_ids: tuple[frozenset[str], frozenset[str]],
    ) -> None:
        """`with_heading_ids` has the markups in which headings get ids of their words: on the old host, on the new."""
        self._records, self._handed, self._new = records, handed, new
        self._ids_before, self._ids_after = with_heading_ids
        self._store, self._old = old
        self._at = lru_cache(_REMEMBERED)(self._read)

    def lost(self, page: str, links: Sequence[str]) -> Iterator[str]:
        """The links of the page at an address that lead to a place that its page had, and no longer has.

        `links` are as they are compared (`verify.addresses`).
        What the layout of a site puts into pages is in no body: such places are not looked for.
        """
        for link in links:
            target, _mark, fragment = link.partition("#")
            name = fragment.partition(_DIRECTIVE)[0]
            if not name:
                continue
            there, had = self._at(target or url.key(page))
            if not {name, unquote(name)} & there and {name, unquote(name)} & had:
                yield link

    def _read(self, new_key: str) -> tuple[frozenset[str], frozenset[str]]:
        """The places of a page of the new site, and those that it had before it was moved."""
        pair = self._records.pair_at(new_key)
        if pair is None and "?" in new_key:  # parameters that name no other page
            pair = self._records.pair_at(new_key.partition("?")[0])
        if pair is None:
            return _NOWHERE, _NOWHERE
        number, found = pair
        handed = self._handed.numbered(number)
        bundle = handed.bundle
        there = self._places(self._new, found.body, bundle.new_address, self._ids_after)
        had = self._places(self._new, bundle.entry.body, bundle.new_address, self._ids_after)
        source = self._store.get(Entry, handed.key)
        if source is not None:
            had |= self._places(self._old, source.body, source.permalink, self._ids_before)
        return there, had

    @staticmethod
    def _places(
        bodies: SiteBodies, body: Body, page: str, with_ids: frozenset[str]
    ) -> frozenset[str]:
        return _names_in(bodies.html(body, page), body.markup in with_ids)


def _names_in(text: str, gives_ids: bool) -> frozenset[str]:
    """The names that a fragment of an address can lead to (HTML standard section 7.4.6.3)."""
    gives_ids = gives_ids and "<h" in text
    if not gives_ids and "id=" not in text and "name=" not in text:
        return _NOWHERE
    try:
        fragment = Fragment(text)
    except TooDeep:
        fragment = Fragment(flattened(text))
    if gives_ids:
        heading_ids.give(fragment)
    names = set[str]()
    for node in fragment.select("[id], a[name]"):
        names.add(node.attributes.get("id") or "")
        names.add(node.attributes.get("name") or "")
    return frozenset(names - {""})
