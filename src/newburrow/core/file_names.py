"""Names of files by which programs that save a site keep the query of an address: `bud.png?w=20`, `bud.png@w=20`."""

from __future__ import annotations

import re

_WITH_QUERY = re.compile(r"(.+\.[A-Za-z][A-Za-z0-9]{1,4})(?:\?|@(?=[^/]*=))[^/]*\Z", re.DOTALL)


def without_query(name: str) -> str:
    """The name or path without the query that is kept in it; the same where there is none."""
    found = _WITH_QUERY.match(name)
    if found:
        return found[1]
    return name
