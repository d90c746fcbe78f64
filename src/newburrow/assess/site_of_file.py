"""Which of several old sites a file of the exports belongs to."""

from __future__ import annotations

from collections.abc import Iterable

from newburrow.model.keys import scope_of
from newburrow.model.site import Site


def site_of_file(path: str, sites: Iterable[Site]) -> tuple[str, str]:
    """The address of the site whose export has a file of this path, and the path as that export says it."""
    mark, _slash, path_within = path.partition("/")
    for site in sites:
        if site.key.startswith(f"{mark}:"):
            return site.address, path_within
    return next((site.address for site in sites if not scope_of(site.key)), ""), path
