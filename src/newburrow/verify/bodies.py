"""Bodies on both sides of a move as facts, with the addresses of their links in one form."""

from __future__ import annotations

import html
from collections.abc import Callable, Sequence

from newburrow.assess.link_map import LinkMap, LinkTarget
from newburrow.assess.named_links import NamedLinks
from newburrow.convert.body.embeds import Embeds
from newburrow.core import plugins, url
from newburrow.dialects.schema import Dialect
from newburrow.hosts.archives import NewArchives
from newburrow.markup.base import Markup, Unreadable
from newburrow.model import Body
from newburrow.store.content_store import Store
from newburrow.store.met_records import MetRecords
from newburrow.verify.addresses import compared
from newburrow.verify.body_facts import BodyFacts, facts_of, words_of


class SiteBodies:
    """The bodies of one site."""

    def __init__(self, store: Store, dialects: Sequence[Dialect]) -> None:
        self._names = NamedLinks(store.page_names, dialects)

    def html(self, body: Body, page: str) -> str:
        """A body as HTML; one that cannot be read is shown as it stands. `page` is the address that it is at."""
        markup: Markup = plugins.get(plugins.MARKUPS, body.markup)
        try:
            return markup.to_html(body.text, self._names.at(page))
        except Unreadable:
            return f"<pre>{html.escape(body.text, quote=False)}</pre>"


class OldBodies(SiteBodies):
    """The bodies of the old site, with the addresses that the move gives to their links."""

    def __init__(
        self, store: Store, dialects: Sequence[Dialect], links: LinkMap, embeds: Embeds
    ) -> None:
        super().__init__(store, dialects)
        self._links, self._embeds = links, embeds

    def facts(self, body: Body, page: str) -> BodyFacts:
        """The facts of a body at an old address."""
        base = body.base or page

        def resolve(address: str) -> str:
            address = address.strip() or base  # an empty one is that of the page itself
            link = self._links.follow(address, base)
            if link.leads in (LinkTarget.UNKNOWN, LinkTarget.GONE):
                return ""
            if link.leads is LinkTarget.MOVED:
                return compared(link.address, base)
            return compared(address, base)

        return facts_of(self.html(body, page), resolve, self._embeds)

    def address_after(self, address: str, page: str) -> str:
        """The address of the new site for one that stands on a page of the old site."""
        return self._links.follow(address, page).address


class NewBodies(SiteBodies):
    """The bodies of the result."""

    def __init__(
        self,
        site: tuple[Store, Sequence[Dialect], MetRecords],
        addresses: Sequence[str],
        archives: NewArchives,
        embeds: Embeds,
    ) -> None:
        """`site` is the result as it was read: its store, dialects and records.

        `addresses` are those of the new site and the old ones; `embeds` knows the new host's form of films.
        """
        store, dialects, self._records = site
        super().__init__(store, dialects)
        self._archives, self._embeds = archives, embeds
        self._sites = frozenset(map(url.site_key, addresses))

    def facts(self, body: Body, page: str) -> BodyFacts:
        """The facts of a body at an address of the new site."""
        base = body.base or page

        def resolve(address: str) -> str:
            if address.startswith("#"):
                return address
            whole = self._records.address_of(url.resolve(base, address))
            is_own = url.site_key(whole) in self._sites
            if is_own and not self._records.has(whole) and not self._archives.is_list(whole):
                return ""
            return compared(whole, base)

        return facts_of(self.html(body, page), resolve, self._embeds)

    def words(self, page: str) -> Callable[[Body], str]:
        """What gives the words of a body at an address."""
        return lambda body: " ".join(words_of(self.html(body, page)))
