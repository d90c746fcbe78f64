"""Frames of pages that a browser saved with a folder of files beside each: they are no pages of the site."""

from __future__ import annotations

import html
import re
from collections import defaultdict
from collections.abc import Iterator
from urllib.parse import unquote

from newburrow.core.problem import BurrowError
from newburrow.intake.part import Contents, LeftOut, Part
from newburrow.intake.whole_text import whole_text

_IN_FOLDER = re.compile(r"(?P<page>.+)_files/[^/]+\.html?", re.IGNORECASE)
_PAGE_ENDINGS = (".html", ".htm")
_SOURCE = re.compile(rb"<i?frame\b[^>]*?\ssrc\s*=\s*(?:\"([^\"]*)\"|'([^']*)')", re.IGNORECASE)


def left_out(contents: Contents) -> Contents:
    """The same without the pages that lie in the folder of a saved page, and that it shows as frames."""
    by_name = {part.name: part for part in contents.parts}
    candidates: dict[str, list[str]] = defaultdict(
        list
    )  # name of a page -> of what may be its frames
    for name in by_name:
        if found := _IN_FOLDER.fullmatch(name):
            pages = (found["page"] + ending for ending in _PAGE_ENDINGS)
            if page := next((page for page in pages if page in by_name), ""):
                candidates[page].append(name)
    frames = {
        name
        for page, names in candidates.items()
        for name in set(names).intersection(_shown(by_name[page]))
    }
    if not frames:
        return contents
    reason = "is a frame within a saved page"
    return Contents(
        tuple(part for part in contents.parts if part.name not in frames),
        (
            *contents.left_out,
            *(LeftOut(name, by_name[name].label, reason) for name in sorted(frames)),
        ),
        contents.answers,
        (*contents.united, *sorted(frames)),
    )


def _shown(page: Part) -> Iterator[str]:
    """The names of files that a page shows as frames, where they lie below its folder."""
    try:
        with page.open() as stream:
            data = whole_text(stream, page.label, "page")
    except BurrowError:  # said where it is read as a page
        return
    folder = "".join(page.name.rpartition("/")[:2])
    for found in _SOURCE.finditer(data):
        source = html.unescape((found[1] or found[2] or b"").decode("utf-8", "replace"))
        yield folder + unquote(source).removeprefix("./")
