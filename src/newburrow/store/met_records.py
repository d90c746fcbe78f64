"""The records of a result that is read back, to be taken one by one by those who look for them."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from urllib.parse import quote

from newburrow.core import url
from newburrow.core.dates import utc
from newburrow.model import Entry, Media
from newburrow.model.keys import bare
from newburrow.store.content_store import Store, decoder
from newburrow.store.journal.handed_over import HandedEntry

_TABLES = """
CREATE TABLE met (seq INTEGER PRIMARY KEY, key TEXT, new_key TEXT, kind TEXT, title TEXT, day TEXT,
                  file TEXT, taken INTEGER);
CREATE INDEX met_at ON met (new_key);
CREATE INDEX met_called ON met (title, kind);
CREATE INDEX met_key ON met (key);
CREATE TABLE met_file (seq INTEGER PRIMARY KEY, new_key TEXT, path TEXT, taken INTEGER);
CREATE INDEX met_file_at ON met_file (new_key);
CREATE INDEX met_file_path ON met_file (path);
CREATE TABLE page (new_key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE pair (handed INTEGER PRIMARY KEY, found INTEGER);
CREATE INDEX pair_of ON pair (found);
CREATE TABLE place (key TEXT PRIMARY KEY, address TEXT) WITHOUT ROWID;
"""


class MetRecords:
    """The entries, files and pages of a result, by address, path, key and title; and which of them were taken."""

    def __init__(self, store: Store, folder: Path) -> None:
        """`store` is thrown away in the end: the index is kept in it. `folder` is what the new host imports."""
        self._store, self._db, self._folder = store, store.db, folder
        self._site = store.site().address

    def index(self) -> None:
        """Make the index; to be called once for a store. It can be read elsewhere after `publish`."""
        self._db.execute("PRAGMA synchronous = OFF")
        for statement in _TABLES.split(";"):
            self._db.execute(statement)
        self._db.execute("BEGIN")
        for number, entry in self._store.numbered(Entry):
            title = " ".join(entry.title.split())
            self._db.execute(
                "INSERT INTO met VALUES (?, ?, ?, ?, ?, ?, ?, 0)",
                (
                    number,
                    bare(entry.key),
                    url.key(entry.permalink),
                    entry.kind,
                    title,
                    _day(entry),
                    entry.source.file,
                ),
            )
            self._place(entry.body.base, entry.permalink)
        for number, media in self._store.numbered(Media):
            self._db.execute(
                "INSERT INTO met_file VALUES (?, ?, ?, 0)",
                (number, url.key(media.address), self._within(media.path)),
            )

    def publish(self) -> None:
        """Write everything to the file of the store: from now on other processes can read it."""
        self._db.execute("COMMIT")
        self._db.execute("BEGIN")

    def _within(self, path: str) -> str:
        """The path of a file as it was written; it may lie in an archive by now."""
        first, slash, rest = bare(path).partition("/")
        if slash and (self._folder / first).is_file():
            return rest
        return bare(path)

    def _place(self, place: str, address: str) -> None:
        """Know the address of what lies at a place of a package, by which links in it lead there."""
        if place and address and url.key(place) != url.key(address):
            self._db.execute(
                "INSERT OR IGNORE INTO place VALUES (?, ?)", (url.key(place), address)
            )

    def address_of(self, place: str) -> str:
        """The address of the new site for a place of a package; any other address stays. The fragment is kept."""
        row = self._db.execute(
            "SELECT address FROM place WHERE key = ?", (url.key(place),)
        ).fetchone()
        if row is None:
            return place
        return str(row[0]) + "".join(place.partition("#")[1:])

    def take(self, handed: HandedEntry) -> bool:
        """Find the entry of the result that is one that was handed over; no other gets it again.

        It is known by its address, else by its key, else by kind and title.
        """
        entry = handed.bundle.entry
        title = " ".join(entry.title.split())
        for condition, *values in (
            ("new_key = ? AND new_key != ''", url.key(handed.bundle.new_address)),
            ("key = ? AND key != '' AND title = ?", bare(entry.key), title),
            ("title = ? AND kind = ? AND new_key = ''", title, entry.kind),
            ("title = ? AND new_key = ''", title),
        ):
            row = self._db.execute(
                f"SELECT seq FROM met WHERE {condition} AND NOT taken ORDER BY seq LIMIT 1",
                values,
            ).fetchone()
            if row:
                self._pair(handed, row[0])
                return True
        return False

    def take_moved(self, handed: HandedEntry) -> bool:
        """Find the entry of the result that has the title of one that was handed over, at an address of nobody."""
        row = self._db.execute(
            "SELECT seq FROM met WHERE title = ? AND NOT taken ORDER BY seq LIMIT 1",
            (" ".join(handed.bundle.entry.title.split()),),
        ).fetchone()
        if row:
            self._pair(handed, row[0])
        return row is not None

    def take_of_day(self, handed: HandedEntry) -> bool:
        """Find the entry of the result that has the title and the day of one that was handed over."""
        entry = handed.bundle.entry
        row = self._db.execute(
            "SELECT seq FROM met WHERE title = ? AND day = ? AND NOT taken ORDER BY seq LIMIT 1",
            (" ".join(entry.title.split()), _day(entry)),
        ).fetchone()
        if row:
            self._pair(handed, row[0])
        return row is not None

    def _pair(self, handed: HandedEntry, number: int) -> None:
        self._db.execute("UPDATE met SET taken = 1 WHERE seq = ?", (number,))
        self._db.execute("INSERT INTO pair VALUES (?, ?)", (handed.number, number))

    def pairs(self, after: int, upto: int) -> list[tuple[int, Entry]]:
        """Numbers of entries that were handed over, above `after` and up to `upto`, with what was found of each."""
        rows = self._db.execute(
            "SELECT handed, found FROM pair WHERE handed > ? AND handed <= ? ORDER BY handed",
            (after, upto),
        ).fetchall()
        return [(handed, self._entry(found)) for handed, found in rows]

    def out_of_order(self) -> Iterator[tuple[int, Entry]]:
        """Numbers of entries that stand before one of their kind that should stand before them, each with that one.

        To be asked when everything was looked for. An entry in a file of its own has no order.
        """
        rows = self._db.execute(
            "SELECT handed, before FROM (SELECT handed, found, lag(found) OVER follows AS before "
            "FROM pair JOIN met ON met.seq = found WINDOW follows AS (PARTITION BY file, kind ORDER BY handed)) "
            "WHERE before > found"
        )
        for handed, before in rows.fetchall():
            yield handed, self._entry(before)

    def pair_at(self, new_key: str) -> tuple[int, Entry] | None:
        """Number of the entry that was handed over for an address of the result, with what was found of it.

        `new_key` is the address as it is compared.
        """
        row = self._db.execute(
            "SELECT handed, found FROM pair JOIN met ON met.seq = found "
            "WHERE new_key = ? AND new_key != '' LIMIT 1",
            (new_key,),
        ).fetchone()
        if row is None:
            return None
        return row[0], self._entry(row[1])

    def _entry(self, number: int) -> Entry:
        return next(self._store.numbered(Entry, number - 1, number))[1]

    def take_file(self, media: Media) -> Media | None:
        """The file of the result at the path of one that was handed over, else at its address."""
        for condition, value in (
            ("path", bare(media.path)),
            ("new_key", url.key(media.address)),
        ):
            row = self._db.execute(
                f"SELECT seq FROM met_file WHERE {condition} = ? AND {condition} != '' LIMIT 1",
                (value,),
            ).fetchone()
            if row:
                self._db.execute("UPDATE met_file SET taken = 1 WHERE seq = ?", row)
                found = next(self._store.numbered(Media, row[0] - 1, row[0]))[1]
                place = url.resolve(self._site, quote(bare(found.path)))
                self._place(place, media.address)
                return found
        return None

    def has_title(self, title: str) -> bool:
        """Whether an entry that was handed over has this title."""
        row = self._db.execute("SELECT 1 FROM met WHERE title = ? AND taken LIMIT 1", (title,))
        return row.fetchone() is not None

    def count_files_at(self, name: str) -> int:
        """How many files of the result are at a path."""
        row = self._db.execute("SELECT count(*) FROM met_file WHERE path = ?", (name,))
        return int(row.fetchone()[0])

    def left(self) -> Iterator[Entry]:
        """The entries that nothing handed over became, in the order read."""
        rows = self._db.execute("SELECT seq FROM met WHERE NOT taken ORDER BY seq").fetchall()
        return (self._entry(number) for (number,) in rows)

    def files_left(self) -> Iterator[Media]:
        """The files that nothing handed over became, in the order read."""
        rows = self._db.execute("SELECT seq FROM met_file WHERE NOT taken ORDER BY seq")
        decode = decoder(Media).decode
        for (number,) in rows.fetchall():
            row = self._db.execute("SELECT data FROM record_media WHERE seq = ?", (number,))
            yield decode(row.fetchone()[0])

    def add_page(self, address: str) -> None:
        """Know a page that the new host makes by itself, or has already."""
        self._db.execute("INSERT OR IGNORE INTO page VALUES (?)", (url.key(address),))

    def has(self, address: str) -> bool:
        """Whether an entry or a file of the result, or a page that is known, is at an address.

        Parameters that belong to no address, such as marks of a campaign, do not count.
        """
        parts = url.split(address)
        if parts:
            keys = [key for key, _place in url.lookup_keys(parts)]
        else:
            keys = []
        return any(
            self._db.execute(
                f"SELECT 1 FROM {table} WHERE new_key = ? LIMIT 1", (key,)
            ).fetchone()
            for key in keys
            for table in ("met", "met_file", "page")
        )


def _day(entry: Entry) -> str:
    """The day on which an entry was published, in UTC; empty for one without a date."""
    return utc(entry.published)[:10]
