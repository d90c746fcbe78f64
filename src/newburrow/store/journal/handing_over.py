"""Noting what is handed to the writer of the new host; `handed_over` reads it again."""

from __future__ import annotations

import sqlite3
import zlib

import msgspec
from msgspec import Struct

from newburrow.core import url

_FAST = 1  # level of compression: a third of the size for a twentieth of the time of a move

_encode = msgspec.json.Encoder().encode


class HandingOver:
    """Keeps the site, the entries, files and versions that the writer of the new host is handed."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def set_site(self, site: Struct) -> None:
        """Keep the facts of the site (`HandedSite`)."""
        self._db.execute("INSERT INTO handed_site VALUES (?)", (_encode(site),))

    def add(self, key: str, new_address: str, bundle: Struct) -> None:
        """Keep an entry (`Bundle`); `key` is the one that it has on the old site."""
        data = zlib.compress(_encode(bundle), _FAST)
        self._db.execute(
            "INSERT INTO handed (key, new_key, data) VALUES (?, ?, ?)",
            (key, url.key(new_address), data),
        )

    def add_file(self, key: str, path: str, media: Struct) -> None:
        """Keep what is known of a file (`Media`) at a path; `key` is the one that it has on the old site."""
        self._db.execute(
            "INSERT INTO handed_file (key, path, data) VALUES (?, ?, ?)",
            (key, path, _encode(media)),
        )

    def add_version(self, new_address: str, revision: Struct) -> None:
        """Keep an earlier state (`Revision`) of the entry at an address of the new site."""
        self._db.execute(
            "INSERT INTO handed_version (new_key, data) VALUES (?, ?)",
            (url.key(new_address), zlib.compress(_encode(revision), _FAST)),
        )
