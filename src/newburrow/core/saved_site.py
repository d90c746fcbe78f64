"""Where a site stood that is saved as files, by addresses of its pages and the places of their files."""

from __future__ import annotations

import re
from collections.abc import Set
from urllib.parse import quote

from newburrow.core import url

# What the address of a page may have or lack beside the place of its file.
_ENDING = re.compile(r"(?:(?:^|/)index)?(?:\.x?html?)?/?$", re.IGNORECASE)


def plain_place(place: str) -> str:
    """The path of a file without what addresses leave out: `docs/index.html` is `docs`; empty for the front page."""
    return _ENDING.sub("", place)


def site_around(address: str, places: Set[str]) -> str:
    """The address of the site, by that of a page whose path ends in one of these places; empty where it ends in none.

    `places` are as `plain_place` gives them. The longest place that fits decides.
    """
    if not url.site_key(address):
        return ""
    steps = plain_place(url.path_of(address)).split("/")
    for number in range(len(steps)):
        if "/".join(steps[number:]) in places:
            above = "".join(f"{quote(step)}/" for step in steps[:number])
            return f"{url.site_of(address)}/{above}"
    return ""
