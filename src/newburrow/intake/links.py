"""Links among the files of a folder or an archive: where one leads. None is ever followed."""

from __future__ import annotations

import posixpath


def link_target(name: str, leads_to: str) -> str:
    """The name within a source that a relative link leads to; empty for one that leads out of it."""
    path = posixpath.normpath(posixpath.join(posixpath.dirname(name), leads_to))
    if path.startswith(("/", "../")) or path in (".", ".."):
        return ""
    return path
