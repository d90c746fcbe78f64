"""The address of a site whose pages do not state theirs, by the links among them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from newburrow.core import url
from newburrow.core.saved_site import plain_place, site_around
from newburrow.formats.html.document import Document

_MOST = 5_000  # addresses that are looked at
_FEWEST = 3  # files of the site to which links with a whole address lead


class LinkedSite:
    """Gathers the whole addresses that pages link to or show, and finds the site that they are on."""

    def __init__(self) -> None:
        self._addresses = dict[str, None]()

    def add(self, document: Document) -> None:
        """Take the links of a page, and the addresses of its pictures."""
        for node in document.all("a[href],img[src]"):
            if len(self._addresses) >= _MOST:
                return
            found = node.attributes.get("href" if node.tag == "a" else "src") or ""
            address = document.resolved(found).partition("#")[0]
            if url.site_key(address):
                self._addresses[address.partition("?")[0]] = None

    def site(self, places: Iterable[str]) -> str:
        """The address below which files with these places stood; empty where the links do not show it.

        At least three links must lead to different files, and half of the links to that host. The front page does not
        count: every site has one.
        """
        if len(self._addresses) < _FEWEST:
            return ""
        known = {plain for place in places if (plain := plain_place(place))}
        fitting, on_host = Counter[str](), Counter[str]()
        for address in self._addresses:
            on_host[url.site_of(address)] += 1
            if site := site_around(address, known):
                fitting[site] += 1
        for site, number in fitting.most_common(1):
            if number >= _FEWEST and 2 * number >= on_host[url.site_of(site)]:
                return site
        return ""
