"""Which of several old sites a file of the exports belongs to."""

from __future__ import annotations

from collections.abc import Iterable

from newburrow.model.keys import scope_of
from newburrow.model.site import Site


def site_of_file(path: str, sites: Iterable[Site]) -> tuple[str, str]:
    """The address of the site whose export has the file at this path, and the path within that export.

    `path` carries the mark of its export, as media paths in the store do. The address is empty if that
    export does not say its site.
    """
    mark, _slash, path_within = path.partition("/")
    for site in sites:
        if site.key.startswith(f"{mark}:"):
            return site.address, path_within
    return next((site.address for site in sites if not scope_of(site.key)), ""), path
