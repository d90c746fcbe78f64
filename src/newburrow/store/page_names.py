"""The pages of a wiki by the names that links in their texts use."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator

from newburrow.model.entry import Entry
from newburrow.model.lookup import RecordLookup

_WIKI_PAGE = "wiki-page"


class PageNames:
    """Finds the old address of a page by its title or slug.

    Names are compared without regard to letter case, to the number of spaces and to underscores in
    their place. Where several pages share a name, a wiki page comes first, then the one read first.

    The index is made at the first question, in a file of its own that SQLite removes, since most
    exports hold no link by name.
    """

    def __init__(self, store: RecordLookup) -> None:
        self._store = store
        self._index: sqlite3.Connection | None = None

    def address(self, name: str) -> str:
        """The old address of the page of this name; empty where no page with an address has it."""
        if self._index is None:
            self._index = self._made()
        row = self._index.execute(
            "SELECT address FROM page WHERE name = ? ORDER BY rank, rowid LIMIT 1",
            (_comparable(name),),
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def _made(self) -> sqlite3.Connection:
        # An empty path is a database on disk, which goes away with the connection.
        index = sqlite3.connect("")
        index.execute("CREATE TABLE page (name TEXT, rank INTEGER, address TEXT)")
        index.executemany("INSERT INTO page VALUES (?, ?, ?)", self._rows())
        index.execute("CREATE INDEX page_name ON page (name, rank)")
        return index

    def _rows(self) -> Iterator[tuple[str, int, str]]:
        for entry in self._store.all(Entry):
            address = entry.permalink or next(iter(entry.addresses), "")
            if not address:
                continue
            rank = 0 if entry.kind == _WIKI_PAGE else 1
            for name in {_comparable(entry.title), _comparable(entry.slug)} - {""}:
                yield name, rank, address


def _comparable(name: str) -> str:
    return " ".join(name.replace("_", " ").split()).casefold()
