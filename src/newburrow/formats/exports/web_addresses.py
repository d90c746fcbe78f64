"""Addresses of a site that states no web address of its own: a path, or a place on somebody's disk."""

from __future__ import annotations

import re
from typing import Any, TypeVar

from msgspec.structs import replace

from newburrow.core import url
from newburrow.model import Entry, Media, Record, Site
from newburrow.model.reading import Item, Mention
from newburrow.model.site import UNSTATED_ADDRESS

R = TypeVar("R", bound=Record)

# What is noted of a site whose export states nothing in place of its address.
NOT_STATED = {UNSTATED_ADDRESS: ["the export does not state it"]}

_SCHEME = re.compile(r"[A-Za-z][A-Za-z0-9+.-]*:|//")  # RFC 3986 section 3.1
# The fields that hold addresses of the site's own.
_OWN: dict[type[Record], tuple[str, ...]] = {
    Entry: ("permalink", "addresses", "feeds"),
    Media: ("address",),
}


class WebAddresses:
    """Gives the records of one source web addresses, where its site states none."""

    def __init__(self, site: str, unknown: str) -> None:
        """`site` is the address that a person gave, if any, `unknown` the one that stands for it if nobody did."""
        self._site, self._is_unknown = site or unknown, not site
        self._stated = ""  # by the site, where that is not a web address

    def of(self, item: Item) -> Item:
        """The item with web addresses. The site, or a mention of it, must come before the entries."""
        if isinstance(item, Site):
            return self._of_site(item)
        if isinstance(item, Mention) and isinstance(item.record, Site):
            return Mention(self._of_site(item.record))
        if self._stated and isinstance(item, Record):
            return self._of_record(item)
        return item

    def _of_site(self, site: Site) -> Site:
        if url.site_key(site.address):
            return site
        self._stated = site.address or "/"
        if not site.address:  # it may still come from an entry
            return site
        if self._is_unknown:
            stated = {UNSTATED_ADDRESS: [site.address]}
        else:
            stated = {}
        return replace(site, address=self._site, extra=stated | site.extra)

    def _of_record(self, record: R) -> R:
        changed: dict[str, Any] = {}
        for name in _OWN.get(type(record), ()):
            value = getattr(record, name)
            if isinstance(value, str):
                changed[name] = self._web(value)
            else:
                changed[name] = tuple(map(self._web, value))
        if changed:
            return replace(record, **changed)
        return record

    def _web(self, address: str) -> str:
        if not address or url.key(address):
            return address
        if address.startswith(self._stated):
            return url.resolve(self._site, "/" + address.removeprefix(self._stated).lstrip("/"))
        if not _SCHEME.match(address):
            return url.resolve(self._site, address)
        return address
