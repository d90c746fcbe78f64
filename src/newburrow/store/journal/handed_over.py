"""What was handed to the writer of the new host, kept with the journal: `verify` holds the result against it.

`show` tells from it how an item looks on the new site.
"""

from __future__ import annotations

import sqlite3
import zlib
from collections.abc import Iterator, Sequence

import msgspec
from msgspec import Struct

from newburrow.core import url
from newburrow.model import Author, Media, MenuItem, Revision, Site, Term
from newburrow.model.bundle import Bundle

_BATCH = 100  # bundles fetched at a time


class HandedEntry(Struct, frozen=True):
    """An entry as it was handed over."""

    number: int  # in the order in which entries were handed over, from 1
    key: str  # of the entry of the old site
    bundle: Bundle


class HandedSite(Struct, frozen=True):
    """What is said once for the whole site."""

    site: Site
    menus: Sequence[MenuItem]  # empty where the import has no place for menus
    terms: Sequence[Term]
    authors: Sequence[Author]


_bundle = msgspec.json.Decoder(Bundle).decode
_media = msgspec.json.Decoder(Media).decode
_site = msgspec.json.Decoder(HandedSite).decode
_revision = msgspec.json.Decoder(Revision).decode


class HandedOver:
    """The entries, files and versions that the writer of the new host was handed."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def site(self) -> HandedSite:
        """The facts of the site."""
        return _site(self._db.execute("SELECT data FROM handed_site").fetchone()[0])

    def entries(self) -> Iterator[HandedEntry]:
        """All entries, in the order in which they were handed over."""
        last = 0
        statement = "SELECT seq, key, data FROM handed WHERE seq > ? ORDER BY seq LIMIT ?"
        while rows := self._db.execute(statement, (last, _BATCH)).fetchall():
            for last, key, data in rows:
                yield HandedEntry(last, key, _bundle(zlib.decompress(data)))

    def numbered(self, number: int) -> HandedEntry:
        """The entry of a number."""
        row = self._db.execute("SELECT key, data FROM handed WHERE seq = ?", (number,))
        key, data = row.fetchone()
        return HandedEntry(number, key, _bundle(zlib.decompress(data)))

    def entry(self, key: str) -> Bundle | None:
        """The entry with a key on the old site; None where it was not handed over."""
        row = self._db.execute("SELECT data FROM handed WHERE key = ?", (key,)).fetchone()
        if row:
            return _bundle(zlib.decompress(row[0]))
        return None

    def count(self) -> int:
        """How many entries were handed over."""
        return int(self._db.execute("SELECT count(*) FROM handed").fetchone()[0])

    def files(self) -> Iterator[tuple[str, Media]]:
        """Key on the old site and record of each file, in the order in which they were handed over."""
        last = 0
        statement = "SELECT seq, key, data FROM handed_file WHERE seq > ? ORDER BY seq LIMIT ?"
        while rows := self._db.execute(statement, (last, _BATCH)).fetchall():
            for _number, key, data in rows:
                yield key, _media(data)
            last = rows[-1][0]

    def file(self, key: str) -> Media | None:
        """The file with a key on the old site; None where it was not handed over."""
        row = self._db.execute("SELECT data FROM handed_file WHERE key = ?", (key,)).fetchone()
        if row:
            return _media(row[0])
        return None

    def longest(self, number: int) -> list[str]:
        """Keys of the entries with the most text, as it is kept."""
        rows = self._db.execute(
            "SELECT key FROM handed ORDER BY length(data) DESC, seq LIMIT ?", (number,)
        )
        return [key for (key,) in rows]

    def first_of_each_kind(self) -> list[tuple[str, str]]:
        """Kind on the new host and key of the first entry of each."""
        rows = self._db.execute(
            "SELECT place.kind, handed.key, min(handed.seq) FROM handed "
            "JOIN place ON place.key = handed.key GROUP BY place.kind ORDER BY place.kind"
        )
        return [(kind, key) for kind, key, _seq in rows]

    def by_chance(self, number: int) -> list[str]:
        """Keys of entries that nothing but chance has chosen, the same in every run."""
        rows = self._db.execute(
            "SELECT key FROM handed ORDER BY (seq * 2654435761) % 4294967296 LIMIT ?", (number,)
        )
        return [key for (key,) in rows]

    def count_files(self) -> int:
        """How many files were handed over."""
        return int(self._db.execute("SELECT count(*) FROM handed_file").fetchone()[0])

    def count_versions(self) -> int:
        """How many earlier states of entries were handed over."""
        return int(self._db.execute("SELECT count(*) FROM handed_version").fetchone()[0])

    def versions(self, new_address: str) -> Iterator[Revision]:
        """The earlier states of the entry at an address of the new site, in their order."""
        rows = self._db.execute(
            "SELECT data FROM handed_version WHERE new_key = ? ORDER BY seq",
            (url.key(new_address),),
        )
        return (_revision(zlib.decompress(data)) for (data,) in rows)
