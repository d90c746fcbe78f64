"""The result of a move, read back by the reader of its format, to be looked up."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path
from types import TracebackType
from urllib.parse import quote

from newburrow.convert.body.comment_place import DATA_FILE
from newburrow.core import url
from newburrow.core.progress import Listener
from newburrow.dialects.schema import Dialect
from newburrow.formats.exports import several
from newburrow.formats.exports.export import ExportRequest
from newburrow.model import Entry, Media
from newburrow.model.keys import bare
from newburrow.store.build import dialects_of, filled_store
from newburrow.store.content_store import Store, decoder
from newburrow.store.journal.handed_over import HandedEntry

_TABLE = """
CREATE TABLE met (seq INTEGER PRIMARY KEY, key TEXT, new_key TEXT, kind TEXT, title TEXT, taken INTEGER);
CREATE INDEX met_at ON met (new_key);
CREATE INDEX met_called ON met (title, kind);
CREATE INDEX met_key ON met (key);
CREATE TABLE met_file (seq INTEGER PRIMARY KEY, new_key TEXT, path TEXT, taken INTEGER);
CREATE INDEX met_file_at ON met_file (new_key);
CREATE INDEX met_file_path ON met_file (path);
CREATE TABLE page (new_key TEXT PRIMARY KEY) WITHOUT ROWID;
CREATE TABLE place (key TEXT PRIMARY KEY, address TEXT) WITHOUT ROWID;
"""


class Result:
    """What lies in `new/`. Use as a context manager. Raises BurrowError where it cannot be read."""

    def __init__(self, folder: Path, dialect: str, listener: Listener, jobs: int) -> None:
        """`folder` is the one that the new host imports, `dialect` the one in which it does; empty to recognise it."""
        self._folder = folder
        self._keeper = tempfile.TemporaryDirectory(prefix="newburrow-")
        try:
            request = ExportRequest([folder], [dialect] if dialect else [])
            exports = several.examine_all(request)
            path = Path(self._keeper.name) / "content.sqlite"
            self.store: Store = filled_store(path, exports, listener, jobs, is_kept=False)
            self.dialects: tuple[Dialect, ...] = dialects_of(exports)
        except BaseException:
            self._keeper.cleanup()
            raise
        self._db = self.store.db
        self._site = self.store.site().address
        self._index()

    def __enter__(self) -> Result:
        return self

    def __exit__(
        self,
        _type: type[BaseException] | None,
        _error: BaseException | None,
        _trace: TracebackType | None,
    ) -> None:
        self.store.__exit__()
        self._keeper.cleanup()

    def _index(self) -> None:
        for statement in _TABLE.split(";"):
            self._db.execute(statement)
        self._db.execute("BEGIN")
        for number, entry in self.store.numbered(Entry):
            title = " ".join(entry.title.split())
            self._db.execute(
                "INSERT INTO met VALUES (?, ?, ?, ?, ?, 0)",
                (number, bare(entry.key), url.key(entry.permalink), entry.kind, title),
            )
            self._place(entry.body.base, entry.permalink)
        for number, media in self.store.numbered(Media):
            self._db.execute(
                "INSERT INTO met_file VALUES (?, ?, ?, 0)",
                (number, url.key(media.address), self._within(media.path)),
            )
        self._db.execute("COMMIT")

    def _within(self, path: str) -> str:
        """The path of a file as it was written; it may lie in an archive by now."""
        first, slash, rest = bare(path).partition("/")
        return rest if slash and (self._folder / first).is_file() else bare(path)

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

    def take(self, handed: HandedEntry) -> Entry | None:
        """The entry of the result that is one that was handed over; no other gets it again.

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
                return self._taken(row[0])
        return None

    def take_moved(self, handed: HandedEntry) -> Entry | None:
        """The entry of the result that has the title of one that was handed over, at an address of nobody."""
        row = self._db.execute(
            "SELECT seq FROM met WHERE title = ? AND NOT taken ORDER BY seq LIMIT 1",
            (" ".join(handed.bundle.entry.title.split()),),
        ).fetchone()
        return self._taken(row[0]) if row else None

    def _taken(self, number: int) -> Entry:
        self._db.execute("UPDATE met SET taken = 1 WHERE seq = ?", (number,))
        return self._entry(number)

    def _entry(self, number: int) -> Entry:
        return next(self.store.numbered(Entry, number - 1, number))[1]

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
                found = next(self.store.numbered(Media, row[0] - 1, row[0]))[1]
                place = url.resolve(self._site, quote(bare(found.path)))
                self._place(place, media.address)
                return found
        return None

    def has_title(self, title: str) -> bool:
        """Whether an entry that was handed over has this title."""
        row = self._db.execute("SELECT 1 FROM met WHERE title = ? AND taken LIMIT 1", (title,))
        return row.fetchone() is not None

    def count_files_beside(self) -> int:
        """How many files of the result hold what the new host has no place for; these are no files of the site."""
        row = self._db.execute("SELECT count(*) FROM met_file WHERE path = ?", (DATA_FILE,))
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
        keys = [key for key, _place in url.lookup_keys(parts)] if parts else []
        return any(
            self._db.execute(
                f"SELECT 1 FROM {table} WHERE new_key = ? LIMIT 1", (key,)
            ).fetchone()
            for key in keys
            for table in ("met", "met_file", "page")
        )
