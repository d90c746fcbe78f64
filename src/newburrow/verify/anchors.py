"""Places within pages that links of the result lead to: whether they are still there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from urllib.parse import unquote

from newburrow.core import url
from newburrow.markup import heading_ids
from newburrow.markup.html import Fragment
from newburrow.model import Body, Entry
from newburrow.store.content_store import Store
from newburrow.store.journal.handed_over import HandedOver
from newburrow.store.met_records import MetRecords
from newburrow.store.page_places import PagePlaces
from newburrow.verify.bodies import NewBodies, OldBodies, SiteBodies

_REMEMBERED = 64  # pages whose earlier places are kept in memory
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
        self._there = PagePlaces()
        self._had = lru_cache(_REMEMBERED)(self._before)

    def lost(self, page: str, links: Sequence[str]) -> Iterator[str]:
        """The links of the page at an address that lead to a place that its page had, and no longer has.

        `links` are as they are compared (`verify.addresses`).
        What the layout of a site puts into pages is in no body: such places are not looked for.
        """
        for link in links:
            target, _mark, fragment = link.partition("#")
            name = fragment.partition(_DIRECTIVE)[0]
            if name.lower() in ("", "top"):  # every page has a top
                continue
            key = self._known(target or url.key(page))
            names = {name, unquote(name)}
            if key and not self._there.has(key, names) and names & self._had(key):
                yield link

    def _known(self, new_key: str) -> str:
        """The key of a page whose places are known by now; empty for one that is not an entry of the result."""
        for key in dict.fromkeys((new_key, new_key.partition("?")[0])):
            if self._there.knows(key):
                return key
            if pair := self._records.pair_at(key):
                self._there.add(key, self._now(pair[1]))
                return key
        return ""

    def _now(self, found: Entry) -> frozenset[str]:
        """The places of a page of the result."""
        return self._names(self._new, found.body, found.permalink, self._ids_after)

    def _before(self, new_key: str) -> frozenset[str]:
        """The places of a page before it was written."""
        pair = self._records.pair_at(new_key)
        if pair is None:
            return _NOWHERE
        handed = self._handed.numbered(pair[0])
        bundle = handed.bundle
        had = self._names(self._new, bundle.entry.body, bundle.new_address, self._ids_after)
        source = self._store.get(Entry, handed.key)
        if source is not None:
            had |= self._names(self._old, source.body, source.permalink, self._ids_before)
        return had

    @staticmethod
    def _names(
        bodies: SiteBodies, body: Body, page: str, with_ids: frozenset[str]
    ) -> frozenset[str]:
        return _names_in(bodies.html(body, page), body.markup in with_ids)


def _names_in(text: str, gives_ids: bool) -> frozenset[str]:
    """The names that a fragment of an address can lead to (HTML standard section 7.4.6.3)."""
    gives_ids = gives_ids and "<h" in text
    if not gives_ids and "id=" not in text and "name=" not in text:
        return _NOWHERE
    fragment = Fragment.of_any(text)
    if gives_ids:
        heading_ids.give(fragment)
    names = set[str]()
    for node in fragment.select("[id], a[name]"):
        names.add(node.attributes.get("id") or "")
        names.add(node.attributes.get("name") or "")
    return frozenset(names - {""})
