"""Places within pages that links of the result lead to: whether they are still there."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property, lru_cache, partial
from urllib.parse import unquote

from newburrow.core import url
from newburrow.markup import heading_ids
from newburrow.markup.html import Fragment, TooDeep, flattened
from newburrow.model import Body, Entry
from newburrow.store.content_store import Store
from newburrow.store.journal.handed_over import HandedEntry, HandedOver
from newburrow.store.met_records import MetRecords
from newburrow.verify.bodies import NewBodies, OldBodies, SiteBodies

_REMEMBERED = 256  # pages whose places are kept in memory
_DIRECTIVE = ":~:"  # what follows it is for the browser alone
_NOWHERE = frozenset[str]()


class _Places:
    """The places of one page."""

    def __init__(
        self, now: Callable[[], frozenset[str]], before: Callable[[], frozenset[str]]
    ) -> None:
        self._now, self._before = now, before

    @cached_property
    def there(self) -> frozenset[str]:
        """Those in the result."""
        return self._now()

    @cached_property
    def had(self) -> frozenset[str]:
        """Those that it had before it was moved."""
        return self._before()


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
            if name.lower() in ("", "top"):  # every page has a top
                continue
            names = {name, unquote(name)}
            places = self._at(target or url.key(page))
            if places and not names & places.there and names & places.had:
                yield link

    def _read(self, new_key: str) -> _Places | None:
        """The places of a page of the new site; None for one that is not an entry of the result."""
        pair = self._records.pair_at(new_key)
        if pair is None and "?" in new_key:  # parameters that name no other page
            pair = self._records.pair_at(new_key.partition("?")[0])
        if pair is None:
            return None
        number, found = pair
        return _Places(
            partial(self._now, found), partial(self._before, self._handed.numbered(number))
        )

    def _now(self, found: Entry) -> frozenset[str]:
        return self._names(self._new, found.body, found.permalink, self._ids_after)

    def _before(self, handed: HandedEntry) -> frozenset[str]:
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
