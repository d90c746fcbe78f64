"""Media: pictures and other files."""

from __future__ import annotations

from typing import ClassVar

from newburrow.model.record import Record

# Names in `extra` for what we note ourselves; in brackets, unlike those of any export.
NAMED_PATH = "(path)"  # of a file that the export names and lacks
UNREADABLE_FILE = "(unreadable)"  # why the bytes of a file cannot be had


class Media(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A picture or other file."""

    table: ClassVar[str] = "media"

    address: str = ""
    addresses: tuple[str, ...] = ()  # other old addresses
    path: str = ""  # in the export; empty where the export lacks the file
    media_type: str = ""  # RFC 6838
    size: int = 0  # bytes
    digest: str = ""  # SHA-256 of the bytes, hexadecimal
    title: str = ""
    alternative_text: str = ""
    caption: str = ""
    entry: str = ""  # key of the entry it was uploaded to

    @property
    def named_path(self) -> str:
        """The path in the export, also of a file that the export names and lacks, or that cannot be read."""
        return self.path or self.extra.get(NAMED_PATH, [""])[0]
