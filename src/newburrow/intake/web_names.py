"""Names of files for what lay at addresses on the web."""

from __future__ import annotations

from urllib.parse import unquote

from newburrow.core import url

PAGES = ("text/html", "application/xhtml+xml")  # media types


def name_of(address: str, media_type: str) -> str:
    """The path of an address below its host; a page without an extension gets one, so that it is seen to be one."""
    parts = url.split(address)
    host, path = (parts.netloc, unquote(parts.path)) if parts else ("", address)
    if path.endswith("/") or not path:
        path += "index.html"
    elif "." not in path.rpartition("/")[2] and media_type in PAGES:
        path += ".html"
    if parts and parts.query:
        stem, dot, extension = path.rpartition(".")
        if stem:
            path = f"{stem}@{parts.query}{dot}{extension}"
        else:
            path = f"{path}@{parts.query}"
    return f"{host}/{path.lstrip('/')}"
