"""Finding one object of an export by what a person has at hand: its id, slug, address, or part of its title."""

from __future__ import annotations

import tempfile
from pathlib import Path

from newburrow.commands.shown_object import ShownObject, find_in
from newburrow.core.progress import Listener, nobody
from newburrow.formats.exports import several
from newburrow.formats.exports.export import ExportRequest
from newburrow.store.build import filled_store


def find(request: ExportRequest, word: str, listener: Listener = nobody) -> ShownObject:
    """The one object that a word names; see `find_in`.

    Raises BurrowError if no object matches, with the nearest ones, or if several do, with the first of
    them.
    """
    exports = several.examine_all(request)
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as name,
        filled_store(Path(name) / "content.sqlite", exports, listener, is_kept=False) as store,
    ):
        return find_in(store, word)
