"""The pictures of previews: files of the result, by their old or new address."""

from __future__ import annotations

import mimetypes
from pathlib import Path

from newburrow.core import url
from newburrow.report.preview import PICTURE_BYTES, PICTURES, Picture
from newburrow.store.journal.files import FileReader
from newburrow.store.journal.handed_over import HandedOver
from newburrow.store.journal.urls import UrlReader


class Pictures:
    """Finds pictures in `new/`. Those in archives, and drawings, which can hold scripts, are not shown."""

    def __init__(
        self, answers: UrlReader, files: FileReader, handed: HandedOver, folder: Path
    ) -> None:
        """`folder` is the move folder."""
        self._answers, self._files, self._handed, self._folder = answers, files, handed, folder

    def on(self, page: str, most: int = PICTURES, most_bytes: int = PICTURE_BYTES) -> Picture:
        """What finds the pictures of the page at an address: so many, each of so many bytes at most."""
        left = most

        def picture(address: str) -> tuple[str, bytes] | None:
            nonlocal left
            found = self._at(url.resolve(page, address), most_bytes) if left else None
            left -= found is not None
            return found

        return picture

    def _at(self, address: str, most_bytes: int) -> tuple[str, bytes] | None:
        answer = self._answers.get(url.key(address))
        key = self._files.key_at(answer.new if answer else address)
        media = self._handed.file(key) if key else None
        if media is None:
            return None
        media_type = mimetypes.guess_type(media.path)[0] or ""
        file = self._folder / "new" / media.path
        is_raster = media_type.startswith("image/") and "svg" not in media_type
        if not is_raster or not file.is_file() or file.stat().st_size > most_bytes:
            return None
        return media_type, file.read_bytes()
