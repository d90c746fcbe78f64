"""The pictures of previews: files of the result, by their old or new address."""

from __future__ import annotations

import mimetypes
from pathlib import Path
from typing import Protocol

from newburrow.core import url
from newburrow.report.preview import Picture
from newburrow.store.journal.kept_journal import KeptJournal


class Moved(Protocol):
    """What is asked of a finished move."""

    journal: KeptJournal

    @property
    def path(self) -> Path:
        """The move folder."""
        ...


class Pictures:
    """Finds pictures in `new/`. Those in archives, and drawings, which can hold scripts, are not shown."""

    def __init__(self, move: Moved) -> None:
        self._move = move

    def on(self, page: str) -> Picture:
        """What finds the pictures of one page."""
        return lambda address: self.at(address, page)

    def at(self, address: str, page: str) -> tuple[str, bytes] | None:
        """Media type and bytes of the picture at an address that stands on a page; None where it is not at hand."""
        journal = self._move.journal
        whole = url.resolve(page, address)
        answer = journal.urls.get(url.key(whole))
        key = journal.files.key_at(answer.new if answer else whole)
        media = journal.handed.file(key) if key else None
        if media is None:
            return None
        media_type = mimetypes.guess_type(media.path)[0] or ""
        file = self._move.path / "new" / media.path
        if not media_type.startswith("image/") or "svg" in media_type or not file.is_file():
            return None
        return media_type, file.read_bytes()
