"""The content store: one SQLite file with everything that was read, in the content model.

One table for each type of record, in the order read; `data` is the record as JSON. A store is filled
once, by one writer, in one transaction, and only read afterwards. Records are read in batches, so
memory does not grow with the store.
"""

from __future__ import annotations

import sqlite3
import sys
from collections import Counter
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import Self, TypeVar, cast

import msgspec
from msgspec import Struct

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.model import Comment, Entry, Media, Question, Record, Revision, Site
from newburrow.model.record_types import sql_table, type_in
from newburrow.store.large_records import LargeRecords
from newburrow.store.page_names import PageNames

R = TypeVar("R", bound=Record)

BATCH = 500  # records fetched at a time

_problems = msgspec.json.Decoder(Problem)


@lru_cache(maxsize=64)
def decoder(record: type[R]) -> msgspec.json.Decoder[R]:
    """The decoder of a class of records from their JSON in the store."""
    return msgspec.json.Decoder(record)


class Double(Struct, frozen=True):
    """A record that is one with another, which was kept."""

    number: int  # in the order met
    table: str
    record: Record
    kind: str
    differs: bool
    why: str  # empty if only its key is there twice


class Store:
    """A content store on disk. Use as a context manager."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.db = sqlite3.connect(path, isolation_level=None)
        self.page_names = PageNames(self)
        self._large = LargeRecords()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_exc: object) -> None:
        self.db.close()

    def meta(self, name: str) -> str:
        """A fact about the source by its name; empty if it is not known or the store was not finished."""
        try:
            row = self.db.execute("SELECT value FROM meta WHERE name = ?", (name,)).fetchone()
        except sqlite3.DatabaseError:
            return ""
        if row:
            return str(row[0])
        return ""

    def tally(self) -> dict[tuple[str, str], int]:
        """How many were read: (table, kind) -> number, doubles included."""
        rows = self.db.execute(
            "SELECT tbl, kind, sum(found) FROM tally GROUP BY tbl, kind ORDER BY tbl, kind"
        )
        return {(table, kind): found for table, kind, found in rows}

    def states(self, table: str) -> dict[str, dict[str, int]]:
        """How many of `entry` or `comment` were read in each state: kind -> state -> number."""
        found: dict[str, dict[str, int]] = {}
        rows = self.db.execute(
            "SELECT kind, status, found FROM tally WHERE tbl = ? ORDER BY kind, found DESC, status",
            (table,),
        )
        for kind, status, number in rows:
            found.setdefault(kind, {})[status] = number
        return found

    def extras(self) -> list[tuple[str, int, str]]:
        """What the model has no place for: name, how many objects have it, an example."""
        return self.db.execute(
            "SELECT name, found, example FROM extra ORDER BY name"
        ).fetchall()

    def site(self) -> Site:
        """The site; the first of several, and an empty one where the export says nothing of it."""
        return next(self.all(Site), Site(key="site"))

    def get(self, kind: type[R], key: str) -> R | None:
        """One record by its key."""
        if found := self._large.get(kind, key):
            return cast(R, found)
        row = self.db.execute(
            f"SELECT data FROM {sql_table(kind)} WHERE key = ?", (key,)
        ).fetchone()
        if row is None:
            return None
        record: R = decoder(kind).decode(row[0])
        self._large.hold(record, key, len(row[0]))
        return record

    def number_of(self, record: Record) -> int:
        """The number of a record of the store, in the order read."""
        row = self.db.execute(
            f"SELECT seq FROM {sql_table(type(record))} WHERE key = ?", (record.key,)
        ).fetchone()
        return int(row[0])

    def uses(self) -> Counter[str]:
        """How many entries are of each `author KEY`, `term KEY` and `field NAME`, and `unsigned`."""
        return Counter(dict(self.db.execute("SELECT word, entries FROM uses").fetchall()))

    def all(self, kind: type[R]) -> Iterator[R]:
        """All records of one type, in the order read."""
        for _seq, record in self.numbered(kind):
            yield record

    def numbered(
        self, kind: type[R], after: int = 0, upto: int = sys.maxsize
    ) -> Iterator[tuple[int, R]]:
        """Records of one type with their number, in the order read.

        Only those with a number above `after` and up to `upto`. Read in batches, so that memory does not grow
        with the store.
        """
        decode = decoder(kind).decode
        last = after
        statement = f"SELECT seq, data FROM {sql_table(kind)} WHERE seq > ? AND seq <= ? ORDER BY seq LIMIT ?"
        while True:
            # A fresh statement for each batch: no cursor stays open while the caller works.
            rows = self.db.execute(statement, (last, upto, BATCH)).fetchall()
            for last, data in rows:
                yield last, decode(data)
            if len(rows) < BATCH:
                return

    def comments_of(self, entry: Entry) -> list[Comment]:
        """The comments of one entry, in the order read."""
        decode = decoder(Comment).decode
        rows = self.db.execute(
            "SELECT data FROM record_comment WHERE entry = ? ORDER BY seq", (entry.key,)
        )
        return [decode(data) for (data,) in rows]

    def questions_of(self, entry: str) -> list[Question]:
        """The questions of a quiz or a question bank, in the order read."""
        decode = decoder(Question).decode
        rows = self.db.execute(
            "SELECT data FROM record_question WHERE entry = ? ORDER BY seq", (entry,)
        )
        return [decode(data) for (data,) in rows]

    def questions_with_links(self) -> Iterator[Question]:
        """Questions with a picture, a file or a link in one of their texts, in the order read."""
        decode = decoder(Question).decode
        # Python searches in a quarter of the time that the database needs.
        for (data,) in self.db.execute("SELECT data FROM record_question ORDER BY seq"):
            if b"src=" in data or b"href=" in data or b"<object" in data:
                yield decode(data)

    def under(self, key: str) -> list[Entry]:
        """The entries right under another one, by their positions, then in the order read."""
        of = "json_extract(CAST(data AS TEXT), '$.{0}')"
        rows = self.db.execute(
            f"SELECT data FROM record_entry WHERE {of.format('parent')} = ? "
            f"ORDER BY {of.format('position')} IS NULL, {of.format('position')}, seq",
            (key,),
        )
        decode = decoder(Entry).decode
        return [decode(data) for (data,) in rows]

    def key_of_guid(self, guid: str, kind: str) -> str:
        """The key of the entry of a kind with a lasting identifier; empty where there is none."""
        statement = (
            "SELECT key FROM record_entry WHERE json_extract(CAST(data AS TEXT), '$.guid') = ? "
            "AND json_extract(CAST(data AS TEXT), '$.kind') = ? LIMIT 1"
        )
        row = self.db.execute(statement, (guid, kind)).fetchone()
        return str(row[0]) if row else ""

    def first_revision(self, entry: str) -> Revision | None:
        """The oldest state of an entry in its history; None where no history is kept."""
        return next(iter(self.revisions_of(entry, 1)), None)

    def revisions_of(self, entry: str, most: int = -1) -> Iterator[Revision]:
        """The states of an entry in its history, the oldest first; at most so many, where that is not below 0."""
        number = "CAST(json_extract(CAST(data AS TEXT), '$.number') AS INTEGER)"
        rows = self.db.execute(
            f"SELECT seq FROM record_revision WHERE entry = ? ORDER BY {number}, seq LIMIT ?",
            (entry, most),
        ).fetchall()
        for (seq,) in rows:  # the numbers alone are held: a page may have ten thousand versions
            yield next(self.numbered(Revision, seq - 1, seq))[1]

    def with_history(self) -> Iterator[str]:
        """Keys of the entries that have a history, also of those that are not in the store."""
        if self.revision_count(""):
            yield ""
        last = ""
        statement = (
            "SELECT DISTINCT entry FROM record_revision WHERE entry > ? ORDER BY entry LIMIT ?"
        )
        while rows := self.db.execute(statement, (last, BATCH)).fetchall():
            for (last,) in rows:
                yield last

    def revision_count(self, entry: str) -> int:
        """How many states of an entry its history holds."""
        statement = "SELECT count(*) FROM record_revision WHERE entry = ?"
        return int(self.db.execute(statement, (entry,)).fetchone()[0])

    def revision_authors(self) -> set[str]:
        """Keys of the authors of the states in all histories."""
        author = "json_extract(CAST(data AS TEXT), '$.author')"
        rows = self.db.execute(f"SELECT DISTINCT {author} FROM record_revision")
        return {key for (key,) in rows if key}

    def orphans(self) -> Iterator[Comment]:
        """Comments whose entry is not in the store."""
        decode = decoder(Comment).decode
        rows = self.db.execute(
            "SELECT data FROM record_comment WHERE entry NOT IN (SELECT key FROM record_entry) ORDER BY seq"
        )
        return (decode(data) for (data,) in rows)

    def questions_apart(self) -> Iterator[Question]:
        """Questions whose quiz or bank is not in the store."""
        decode = decoder(Question).decode
        rows = self.db.execute(
            "SELECT data FROM record_question WHERE entry NOT IN (SELECT key FROM record_entry) ORDER BY seq"
        )
        return (decode(data) for (data,) in rows)

    def doubles(self) -> Iterator[Double]:
        """Records that were merged into another one, which was kept."""
        last = 0
        statement = "SELECT seq, tbl, kind, differs, why, data FROM double WHERE seq > ? ORDER BY seq LIMIT ?"
        while rows := self.db.execute(statement, (last, BATCH)).fetchall():
            for last, table, kind, differs, why, data in rows:
                yield Double(
                    last,
                    table,
                    decoder(type_in(table).record).decode(data),
                    kind,
                    bool(differs),
                    why,
                )

    def problems(self) -> Iterator[Problem]:
        """The problems met while reading, in the order met."""
        return (
            _problems.decode(data)
            for (data,) in self.db.execute("SELECT data FROM problem ORDER BY seq")
        )

    def left_out_files(self) -> Iterator[tuple[str, str]]:
        """Name and reason of each file that the sources list and that is not read, in the order met."""
        return iter(self.db.execute("SELECT name, reason FROM left_out_file ORDER BY rowid"))

    def with_slug(self, slug: str) -> Entry | None:
        """The first entry with this slug. The first call makes an index, so ask only for words that are not a key."""
        of = "json_extract(CAST(data AS TEXT), '$.slug')"
        self.db.execute(f"CREATE INDEX IF NOT EXISTS entry_slug ON record_entry ({of})")
        row = self.db.execute(
            f"SELECT data FROM record_entry WHERE {of} = ? ORDER BY seq LIMIT 1", (slug,)
        ).fetchone()
        return decoder(Entry).decode(row[0]) if row else None

    def media_at(self, address: str) -> Media | None:
        """The file at an old address."""
        row = self.db.execute(
            "SELECT key FROM media_address WHERE address = ? LIMIT 1", (url.key(address),)
        ).fetchone()
        return self.get(Media, str(row[0])) if row else None

    def gone_addresses(self) -> Iterator[str]:
        """The addresses that were gone on the old site already."""
        rows = self.db.execute(
            "SELECT address FROM former_address WHERE target = '' ORDER BY key"
        )
        return (address for (address,) in rows)

    def text_bytes(self) -> int:
        """About how many bytes entries and comments have."""
        tables = (sql_table(Entry), sql_table(Comment))
        sizes = (
            self.db.execute(f"SELECT coalesce(sum(length(data)), 0) FROM {table}").fetchone()[0]
            for table in tables
        )
        return sum(map(int, sizes))

    def key_at(self, address: str) -> str:
        """The key of the entry at an old address, or at the one with or without its index file; else empty."""
        return self.page_names.key_at(address)

    def last(self, kind: type[Record]) -> int:
        """The highest number of a record of this type."""
        return int(
            self.db.execute(f"SELECT coalesce(max(seq), 0) FROM {sql_table(kind)}").fetchone()[
                0
            ]
        )

    def count(self, kind: type[Record]) -> int:
        """How many records of a type are in the store."""
        return int(self.db.execute(f"SELECT count(*) FROM {sql_table(kind)}").fetchone()[0])
