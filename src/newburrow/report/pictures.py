"""The pictures of previews: files of the result, in folders or in archives, by their old or new address."""

from __future__ import annotations

import mimetypes
import zipfile
import zlib
from contextlib import suppress
from functools import cached_property
from pathlib import Path

from newburrow.core import url
from newburrow.core.file_names import without_query
from newburrow.report.preview import PICTURE_BYTES, PICTURES, Picture
from newburrow.store.journal.files import FileReader
from newburrow.store.journal.handed_over import HandedOver
from newburrow.store.journal.urls import UrlReader

_UNREADABLE = (OSError, zipfile.BadZipFile, zlib.error, RuntimeError)


class Pictures:
    """Finds pictures in `new/`. Drawings, which can hold scripts, are not shown."""

    def __init__(
        self, answers: UrlReader, files: FileReader, handed: HandedOver, folder: Path
    ) -> None:
        """`folder` is the move folder."""
        self._answers, self._files, self._handed = answers, files, handed
        self._folder = folder / "new"

    def on(self, page: str, most: int = PICTURES, most_bytes: int = PICTURE_BYTES) -> Picture:
        """What finds the pictures of the page at an address: so many, each of so many bytes at most."""
        left = most

        def picture(address: str) -> tuple[str, bytes] | None:
            nonlocal left
            if left:
                found = self._at(url.resolve(page, address), most_bytes)
            else:
                found = None
            left -= found is not None
            return found

        return picture

    def _at(self, address: str, most_bytes: int) -> tuple[str, bytes] | None:
        answer = self._answers.get(url.key(address))
        key = self._files.key_at(answer.new if answer else address)
        media = self._handed.file(key) if key else None
        if media is None:
            return None
        media_type = mimetypes.guess_type(without_query(media.path))[0] or ""
        if not media_type.startswith("image/") or "svg" in media_type:
            return None
        data = self._bytes(media.path, most_bytes)
        if data:
            return (media_type, data)
        return None

    def _bytes(self, path: str, most: int) -> bytes:
        """The bytes of a file of the result; empty where there is none, or it has more than `most`."""
        file = self._folder / path
        if file.is_file():
            if file.stat().st_size <= most:
                return file.read_bytes()
            return b""
        for archive in self._archives:
            with suppress(KeyError, *_UNREADABLE):
                if archive.getinfo(path).file_size <= most:
                    return archive.read(path)
        return b""

    @cached_property
    def _archives(self) -> list[zipfile.ZipFile]:
        """The archives that the new host imports."""
        found = []
        for path in sorted(self._folder.glob("*")):
            if path.is_file() and zipfile.is_zipfile(path):
                with suppress(*_UNREADABLE):
                    found.append(zipfile.ZipFile(path))
        return found
