"""The pages of a wiki, and the files on them, by the names that links in their texts use."""

from __future__ import annotations

import sqlite3
import unicodedata
from collections.abc import Iterator
from functools import lru_cache
from urllib.parse import quote, unquote

from newburrow.core import url
from newburrow.model.entry import Entry
from newburrow.model.lookup import RecordLookup
from newburrow.model.media import Media
from newburrow.model.site import Site

_WIKI_PAGE = "wiki-page"
_REMEMBERED = 1024  # addresses


class PageNames:
    """Finds the old address of a page by its title, its slug, its key or a name it had before.

    Names are compared by the number of their spaces and by underscores in their place as if these were
    one. Where several pages share a name, a wiki page comes first: by the name in its address, then by its title;
    then the one in the same letter case, then the one read first.

    The index is made at the first question, in a file of its own that SQLite removes, since most
    exports hold no link by name.
    """

    def __init__(self, store: RecordLookup) -> None:
        self._store = store
        self._index: sqlite3.Connection | None = None
        # Many pages are below the same few, and links lead to the same few again and again.
        self._keys = lru_cache(_REMEMBERED)(self._key_at)

    def address(self, name: str) -> str:
        """The old address of the page of this name; empty where no page with an address has it."""
        plain = plain_name(name)
        row = self._db.execute(
            "SELECT address FROM page WHERE folded = ? AND address != '' "
            "ORDER BY rank, name != ?, rowid LIMIT 1",
            (plain.casefold(), plain),
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def key(self, name: str) -> str:
        """The key of the page of this name; empty where no page has it."""
        plain = plain_name(name)
        row = self._db.execute(
            "SELECT key FROM page WHERE folded = ? ORDER BY rank, name != ?, rowid LIMIT 1",
            (plain.casefold(), plain),
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def key_at(self, address: str) -> str:
        """The key of the page at an old address, or at the one with or without its index file; else empty.

        What is no address is the name of a page.
        """
        return self._keys(address)

    def _key_at(self, address: str) -> str:
        if "://" not in address:
            return self.key(address)
        bare = address.partition("#")[0]
        folder = bare.removesuffix("index.html").rstrip("/")
        for variant in dict.fromkeys((bare, folder, f"{folder}/", f"{folder}/index.html")):
            row = self._db.execute(
                "SELECT key FROM place WHERE address = ? LIMIT 1", (url.key(variant),)
            ).fetchone()
            if row:
                return str(row[0])
        return ""

    def name_at(self, address: str) -> str:
        """The name of the page at an old address; empty where there is none."""
        row = self._db.execute(
            "SELECT title FROM place WHERE address = ? LIMIT 1", (url.key(address),)
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def file(self, address: str, name: str) -> str:
        """The old address of the file of this name on the page at an old address; empty where there is none."""
        row = self._db.execute(
            "SELECT file.address FROM place JOIN file ON file.entry = place.key "
            "WHERE place.address = ? AND file.name = ? ORDER BY file.rowid LIMIT 1",
            (url.key(address), name),
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    @property
    def _db(self) -> sqlite3.Connection:
        if self._index is None:
            self._index = self._made()
        return self._index

    def _made(self) -> sqlite3.Connection:
        # An empty path is a database on disk, which goes away with the connection.
        index = sqlite3.connect("")
        index.execute(
            "CREATE TABLE page (name TEXT, folded TEXT, rank INTEGER, address TEXT, key TEXT)"
        )
        index.execute("CREATE TABLE place (address TEXT, key TEXT, title TEXT)")
        index.execute("CREATE TABLE file (entry TEXT, name TEXT, address TEXT)")
        for entry in self._store.all(Entry):
            index.executemany("INSERT INTO page VALUES (?, ?, ?, ?, ?)", _names_of(entry))
            index.executemany("INSERT INTO place VALUES (?, ?, ?)", _places_of(entry))
        index.executemany("INSERT INTO file VALUES (?, ?, ?)", self._files())
        index.execute("CREATE INDEX page_name ON page (folded, rank)")
        index.execute("CREATE INDEX place_address ON place (address)")
        index.execute("CREATE INDEX file_name ON file (entry, name)")
        return index

    def _files(self) -> Iterator[tuple[str, str, str]]:
        site = next((site.address for site in self._store.all(Site)), "")
        for media in self._store.all(Media):
            if media.entry and media.path:
                address = media.address or url.resolve(site, quote(f"/{media.path}"))
                yield media.entry, media.path.rpartition("/")[2], address


def _names_of(entry: Entry) -> Iterator[tuple[str, str, int, str, str]]:
    address = entry.permalink or next(iter(entry.addresses), "")
    if entry.kind == _WIKI_PAGE:
        names = [(entry.slug, 0), (entry.key, 0), (entry.title, 1)]
        names += [(unquote(url.last_name(old)), 3) for old in entry.addresses]
    else:
        names = [(entry.title, 2), (entry.slug, 2)]
    for name, of_name in names:
        if plain := plain_name(name):
            yield plain, plain.casefold(), of_name, address, entry.key


def _places_of(entry: Entry) -> Iterator[tuple[str, str, str]]:
    for address in dict.fromkeys((entry.permalink, *entry.addresses, entry.body.base)):
        if address:
            yield url.key(address), entry.key, entry.title


def plain_name(name: str) -> str:
    """A name in the form in which names are compared: NFC, with single spaces for all spaces and underscores."""
    return unicodedata.normalize("NFC", " ".join(name.replace("_", " ").split()))
