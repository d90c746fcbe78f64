"""Archives of the new site: where the entries of one author or one term are listed."""

from __future__ import annotations

from newburrow.core import url, url_pattern
from newburrow.hosts import slugs
from newburrow.hosts.profile import Profile


class NewArchives:
    """Where archives are on the new site; an empty address where the host has none."""

    def __init__(self, host: Profile, site: str) -> None:
        self.host, self.site = host, site

    def of_author(self, name: str) -> str:
        """The archive of an author's entries, by the author's name."""
        return self._of(self.host.authors.address, name)

    def of_term(self, name: str) -> str:
        """The archive of a term's entries, by the term's name."""
        return self._of(self.host.terms.address, name)

    def of_date(self, values: dict[str, str]) -> str:
        """The list of what was published on a day, else in its month, else in its year, as the host has it."""
        fitting = [
            date
            for date in self.host.site.dates
            if set(url_pattern.variables(date)) <= set(values)
        ]
        pattern = max(
            fitting, key=lambda pattern: len(url_pattern.variables(pattern)), default=""
        )
        if pattern:
            return url.resolve(self.site, url_pattern.expand(pattern, values))
        return ""

    def _of(self, pattern: str, name: str) -> str:
        if pattern and name:
            slug = slugs.make(name, self.host.slugs)
        else:
            slug = ""
        if slug:
            return url.resolve(self.site, url_pattern.expand(pattern, {"slug": slug}))
        return ""
