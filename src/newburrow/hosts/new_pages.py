"""Pages of the new site: what name an address has, what address a name, and the archives."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cached_property

from newburrow.core import url, url_pattern
from newburrow.hosts import slugs
from newburrow.hosts.archives import NewArchives
from newburrow.hosts.profile import Profile


class NewPages:
    """Names and addresses of pages on one new site."""

    def __init__(self, host: Profile, decided: Mapping[str, str], site: str) -> None:
        """`decided` has the patterns of addresses that differ from the profile's, by kind; `site` is an address."""
        self.host, self.site = host, site
        self._patterns = {
            name: decided.get(name) or kind.address for name, kind in host.kinds.items()
        }

    def name_at(self, address: str) -> str:
        """The name of the page at an address, on a host whose links name pages; else empty.

        A link with parameters keeps them, which no name can say.
        """
        by_name = self.host.markup.links_by_name and "?" not in address
        if not by_name or not url.is_within(address, self.site):
            return ""
        for pattern in self._with_names:
            found = pattern.fullmatch("/" + url.path_of(address))
            if found:
                return str(found["slug"])
        return ""

    @cached_property
    def archives(self) -> NewArchives:
        """The addresses of archives on the new site."""
        return NewArchives(self.host, self.site)

    @cached_property
    def _with_names(self) -> list[re.Pattern[str]]:
        """The patterns of addresses from which names can be told."""
        before = f"/{url.path_of(self.site)}".rstrip("/")
        return [
            url_pattern.matcher(before + pattern)
            for pattern in self._patterns.values()
            if url_pattern.variables(pattern) == ("slug",)
        ]

    def missing(self, name: str, kind: str) -> str:
        """The address that a page of this name and kind would have, where links to it can stay; else empty."""
        if self.host.markup.missing_pages:
            slug = slugs.make(name, self.host.slugs)
        else:
            slug = ""
        if not slug or kind not in self._patterns:
            return ""
        path = url_pattern.expand(self._patterns[kind], {"slug": slug, "path": slug})
        return url.resolve(self.site, path)
