"""Archives of the new site: where the entries of one author or one term are listed."""

from __future__ import annotations

import re
from functools import cached_property

from newburrow.core import url, url_pattern
from newburrow.hosts import slugs
from newburrow.hosts.profile import Profile

_DIGITS = {"year": r"\d{4}", "month": r"\d\d", "day": r"\d\d", "page": r"\d+"}
_SAMPLE = {"slug": "a-sample", "year": "2014", "month": "05", "day": "17", "page": "2"}


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

    def is_list(self, address: str) -> bool:
        """Whether this is a list or a feed that the new host makes by itself: of a date, a further page, a feed."""
        if not url.is_within(address, self.site):
            return False
        path = f"/{url.path_of(address)}"
        return any(
            found and all(_is_said(name, value) for name, value in found.groupdict().items())
            for found in (pattern.fullmatch(path) for pattern in self._lists)
        )

    def samples(self) -> list[str]:
        """Addresses of lists and feeds of the new site, one of each form; a rule for old addresses must spare them."""
        return [
            url.resolve(self.site, url_pattern.expand(pattern, _SAMPLE))
            for pattern in self._patterns()
        ]

    @cached_property
    def _lists(self) -> list[re.Pattern[str]]:
        known = {self.host.terms.address, self.host.authors.address}
        return [
            url_pattern.matcher(pattern) for pattern in self._patterns() if pattern not in known
        ]

    def _patterns(self) -> list[str]:
        """The patterns of the lists that the profile names, and of their further pages."""
        site = self.host.site
        lists = [*site.dates, self.host.terms.address, self.host.authors.address]
        lists = list(filter(None, lists))
        further = [
            pattern
            for list_ in ("/", *lists)
            if site.further
            for pattern in [site.further.replace("{+list}", list_)]
        ]
        return [*lists, *further, *filter(None, [site.feed])]

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


def _is_said(name: str, value: str) -> bool:
    """Whether a variable of a list can have this value: dates and pages are numbers."""
    return name not in _DIGITS or bool(re.fullmatch(_DIGITS[name], value))
