"""A content store that is being filled: what comes is kept, then linked and united, then it is only read."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TypeVar

import msgspec
from msgspec import Struct

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.model import Author, Comment, Entry, Media, Record, Site, Term
from newburrow.model.reading import FormerAddress, Item, LeftOutFile, Mention, Relation
from newburrow.model.record_types import (
    FILE_KIND,
    all_types,
    kind_of,
    sql_table,
    table_of,
    type_of,
)
from newburrow.store.content_store import BATCH, Double, Store, decoder
from newburrow.store.schema import create_tables

R = TypeVar("R", bound=Record)

_BESIDE = {
    "problem": "data",
    "double": "tbl, key, kind, differs, why, data",
    "media_address": "address, key",
    "relation": "entry, data",
    "left_out_file": "name, reason",
    "former_address": "key, address, target, data",
}
_encoder = msgspec.json.Encoder()


class CannotSplit(Exception):
    """A half of an export cannot be read without the other; then one process reads it all."""


class PartialStore(Struct, frozen=True):
    """What a store that is half of one holds in memory."""

    tally: dict[tuple[str, str, str], int]
    extra: dict[str, tuple[int, str]]
    uses: dict[str, int]
    mentioned: list[Author | Term | Site]


class NewStore(Store):
    """A content store on disk that is filled by one writer, in one transaction. Use as a context manager."""

    def __init__(self, path: Path) -> None:
        super().__init__(path)
        # The file is thrown away if the run dies, so it needs no journal on the way.
        self.db.execute("PRAGMA journal_mode = OFF")
        self.db.execute("PRAGMA synchronous = OFF")
        self.db.execute("PRAGMA temp_store = FILE")
        self.db.execute("BEGIN")
        create_tables(self.db)
        self.mentioned: dict[tuple[str, str], Author | Term | Site] = {}  # few
        self._tally: Counter[tuple[str, str, str]] = Counter()
        # name -> how many objects have it, an example
        self._extra: dict[str, tuple[int, str]] = {}
        # by author, term and name of a field, which are few
        self._uses: Counter[str] = Counter()
        self._waiting: list[tuple[Record, bytes]] = []
        self._relations: list[Relation] = []  # of one entry, not yet written
        # the last number of each type in each export
        self._ends: list[dict[type[Record], int]] = []

    # -- filling -------------------------------------------------------------------------------

    def add(self, item: Item | Problem) -> None:
        """Keep a record, or a problem met while reading. The first of several with one key is kept."""
        if isinstance(item, Problem):
            self.db.execute("INSERT INTO problem (data) VALUES (?)", (_encoder.encode(item),))
            return
        if isinstance(item, Mention):
            self._mention(item.record)
            return
        if isinstance(item, Relation):
            self._relate(item)
            return
        if isinstance(item, FormerAddress):
            values = (url.key(item.address), item.address, item.target, _encoder.encode(item))
            self.db.execute("INSERT OR IGNORE INTO former_address VALUES (?, ?, ?, ?)", values)
            return
        if isinstance(item, LeftOutFile):
            self.db.execute("INSERT INTO left_out_file VALUES (?, ?)", (item.name, item.reason))
            self._tally[FILE_KIND, FILE_KIND, ""] += 1
            return
        self._waiting.append((item, _encoder.encode(item)))
        if len(self._waiting) >= BATCH:
            self.write_waiting()

    def _relate(self, relation: Relation) -> None:
        """Keep what is said of an entry by words, in one row with what was said of it just before."""
        waiting = self._relations
        if waiting and (waiting[0].entry != relation.entry or len(waiting) >= BATCH):
            self._write_relations()
        self._relations.append(relation)

    def _write_relations(self) -> None:
        if not self._relations:
            return
        row = (self._relations[0].entry, _encoder.encode(self._relations))
        self.db.execute("INSERT INTO relation (entry, data) VALUES (?, ?)", row)
        self._relations = []

    def write_waiting(self) -> None:
        """Write the rows that wait: new ones many at once, those whose key is known one by one."""
        self._write_relations()
        waiting, self._waiting = self._waiting, []
        known: dict[type[Record], set[str]] = {}
        rows: dict[type[Record], list[tuple[object, ...]]] = {}
        again: list[Record] = []
        for kind in dict.fromkeys(type(item) for item, _data in waiting):
            keys = [item.key for item, _data in waiting if type(item) is kind]
            asked = ", ".join("?" * len(keys))
            found = self.db.execute(
                f"SELECT key FROM {sql_table(kind)} WHERE key IN ({asked})", keys
            )
            known[kind], rows[kind] = {key for (key,) in found}, []
        for item, data in waiting:
            kind = type(item)
            if item.key in known[kind]:
                again.append(item)
                continue
            known[kind].add(item.key)
            rows[kind].append((item.key, *_columns_of(item), data))
            if isinstance(item, Media):
                places = [
                    (key, item.key)
                    for address in (item.address, *item.addresses)
                    if (key := url.key(address))
                ]
                self.db.executemany("INSERT INTO media_address VALUES (?, ?)", places)
            self._count(item)
            self._use(item)
        for kind, values in rows.items():
            names = _column_names(kind)
            holders = ", ".join("?" * len(names))
            self.db.executemany(
                f"INSERT INTO {sql_table(kind)} ({', '.join(names)}) VALUES ({holders})", values
            )
        for item in again:
            self._again(item)

    def _again(self, item: Record) -> None:
        """A record of a key that is known."""
        first = self.get(type(item), item.key)
        same = first is not None and msgspec.structs.replace(first, source=item.source) == item
        if same and type_of(type(item)).repeats:
            return
        self._double(table_of(type(item)), item, not same, "")
        self._count(item)

    def _count(self, item: Record) -> None:
        self._tally[table_of(type(item)), kind_of(item), getattr(item, "status", "")] += 1
        for name, values in item.extra.items():
            if name.startswith("("):
                continue  # noted by ourselves
            found, example = self._extra.get(name, (0, values[0] if values else ""))
            self._extra[name] = (found + 1, example)

    def _use(self, item: Record, times: int = 1) -> None:
        """Count what an entry is filed under."""
        if isinstance(item, Entry):
            for word in (
                *{f"author {key}" for key in item.authors},
                *{f"term {key}" for key in item.terms},
            ):
                self._uses[word] += times
            for name in item.fields:
                self._uses[f"field {name}"] += times
            if not item.authors:
                self._uses["unsigned"] += times

    def _double(self, table: str, record: Record, differs: bool, why: str) -> None:
        values = (table, record.key, kind_of(record), differs, why, _encoder.encode(record))
        self.db.execute(
            "INSERT INTO double (tbl, key, kind, differs, why, data) VALUES (?, ?, ?, ?, ?, ?)",
            values,
        )

    def _mention(self, record: Author | Term | Media | Site) -> None:
        """Authors, terms and sites are few; files are not, and wait on disk."""
        if isinstance(record, Media):
            values = (record.key, url.key(record.address), _encoder.encode(record))
            self.db.execute("INSERT OR IGNORE INTO mention VALUES (?, ?, ?)", values)
        else:
            self.mentioned.setdefault((type(record).__name__, record.key), record)

    def export_ends(self) -> None:
        """The current export ends: what is added from now on is from the next one."""
        self.write_waiting()
        self._ends.append({kind.record: self.last(kind.record) for kind in all_types()})

    def finish(self, meta: Callable[[], dict[str, str]]) -> None:
        """Keep counts, and facts about the source, with the records."""
        self.write_waiting()
        rows = sorted((*key, found) for key, found in self._tally.items())
        self.db.executemany("INSERT INTO tally VALUES (?, ?, ?, ?)", rows)
        for name, (found, example) in sorted(self._extra.items()):
            self.db.execute("INSERT INTO extra VALUES (?, ?, ?)", (name, found, example[:200]))
        self.db.executemany("INSERT INTO uses VALUES (?, ?)", sorted((+self._uses).items()))
        self.db.executemany("INSERT INTO meta VALUES (?, ?)", sorted(meta().items()))

    def commit(self) -> None:
        """End the transaction: the store is complete."""
        self.db.execute("COMMIT")

    # -- two halves ----------------------------------------------------------------------------

    def half(self) -> PartialStore:
        """End the filling of a store that is half of one: what it holds in memory, for the other half to take."""
        self.write_waiting()
        self.db.execute("COMMIT")
        return PartialStore(
            dict(self._tally), self._extra, dict(self._uses), [*self.mentioned.values()]
        )

    def take(self, path: Path, half: PartialStore) -> None:
        """Add the second half of what is read, which another process filled into the store at `path`.

        Numbers, counts and doubles are as if one process had read both halves.
        """
        self.write_waiting()
        self.db.execute("COMMIT")
        self.db.execute("ATTACH ? AS second", (str(path),))
        self.db.execute("BEGIN")
        self._tally.update(half.tally)
        self._uses.update(half.uses)
        for name, (found, example) in half.extra.items():
            before, first = self._extra.get(name, (0, example))
            self._extra[name] = (before + found, first)
        for mentioned in half.mentioned:
            self._mention(mentioned)
        for record_type in all_types():
            self._take_table(record_type.record)
        for table, names in _BESIDE.items():
            self.db.execute(
                f"INSERT OR IGNORE INTO {table} ({names}) SELECT {names} FROM second.{table} ORDER BY rowid"
            )
        self.db.execute(
            "INSERT OR IGNORE INTO mention SELECT key, address, data FROM second.mention ORDER BY key"
        )
        self.db.execute("COMMIT")
        self.db.execute("DETACH second")
        self.db.execute("BEGIN")

    def _take_table(self, kind: type[Record]) -> None:
        table, names = sql_table(kind), ", ".join(_column_names(kind))
        known = (
            f"SELECT s.key FROM second.{table} s JOIN {table} f ON f.key = s.key ORDER BY s.seq"
        )
        again = [key for (key,) in self.db.execute(known)]
        for key in again:
            (data,) = self.db.execute(
                f"SELECT data FROM second.{table} WHERE key = ?", (key,)
            ).fetchone()
            record = decoder(kind).decode(data)
            # counted again below
            self._tally[table_of(kind), kind_of(record), getattr(record, "status", "")] -= 1
            self._use(record, -1)
            for name in record.extra.keys() & self._extra.keys():
                self._extra[name] = (self._extra[name][0] - 1, self._extra[name][1])
            self._again(record)
        if again:
            known_here = f"WHERE NOT EXISTS (SELECT 1 FROM {table} f WHERE f.key = s.key)"
        else:
            known_here = ""
        self.db.execute(
            f"INSERT INTO {table} ({names}) SELECT {names} FROM second.{table} s {known_here} ORDER BY s.seq"
        )

    # -- uniting -------------------------------------------------------------------------------

    @property
    def exports(self) -> int:
        """How many exports are in the store being filled."""
        return len(self._ends)

    def _export_of(self, kind: type[Record], number: int) -> int:
        """Which export, counted from 0, the record of this number came with; the last for what was found later."""
        return next(
            (nth for nth, ends in enumerate(self._ends) if number <= ends[kind]),
            len(self._ends) - 1,
        )

    def by_export(self, kind: type[R]) -> Iterator[tuple[int, R]]:
        """All records of one type with the number of their export, in the order read."""
        return (
            (self._export_of(kind, number), record) for number, record in self.numbered(kind)
        )

    def comments_by_export(self, entry: str) -> list[tuple[int, Comment]]:
        """The comments of one entry with the number of their export, in the order read."""
        rows = self.db.execute(
            "SELECT seq, data FROM record_comment WHERE entry = ? ORDER BY seq", (entry,)
        )
        return [
            (self._export_of(Comment, number), decoder(Comment).decode(data))
            for number, data in rows
        ]

    def learn(self, word: str, key: str, export: int = -1) -> None:
        """Remember while the store is filled that a word means a key, if need be only within one export."""
        self.db.execute(
            "CREATE TEMP TABLE IF NOT EXISTS name (word TEXT, key TEXT, export INTEGER)"
        )
        self.db.execute("CREATE INDEX IF NOT EXISTS temp.name_word ON name (word)")
        self.db.execute("INSERT INTO name VALUES (?, ?, ?)", (word, key, export))

    def known(self, word: str, other_than: int = -2) -> list[str]:
        """The keys that a word means, in an export other than this."""
        try:
            found = self.db.execute(
                "SELECT key FROM name WHERE word = ? AND export != ? ORDER BY rowid",
                (word, other_than),
            )
        except sqlite3.OperationalError:  # nothing was learnt
            return []
        return [key for (key,) in found]

    def change(self, record: Record, before: Record | None = None) -> None:
        """Put a record in place of the one of its key; `before` is that one, where it is at hand."""
        if isinstance(record, Entry) and (before := before or self.get(Entry, record.key)):
            self._use(before, -1)
            self._use(record)
        self._large.clear()
        kind = type(record)
        columns = "".join(f", {column} = ?" for column in type_of(kind).columns)
        statement = f"UPDATE {sql_table(kind)} SET data = ?{columns} WHERE key = ?"
        values = (_encoder.encode(record), *_columns_of(record), record.key)
        self.db.execute(statement, values)

    def fold(self, record: Record, why: str, differs: bool) -> None:
        """Remove a record that was merged into another."""
        self._use(record, -1)
        self._large.clear()
        table = sql_table(type(record))
        self.db.execute(f"DELETE FROM {table} WHERE key = ?", (record.key,))
        self._double(table_of(type(record)), record, differs, why)

    def explain(self, double: Double, why: str, differs: bool) -> None:
        """Record why two records are the same, and whether they differ."""
        self.db.execute(
            "UPDATE double SET why = ?, differs = ? WHERE seq = ?",
            (why, differs, double.number),
        )


def _column_names(kind: type[Record]) -> tuple[str, ...]:
    return ("key", *type_of(kind).columns, "data")


def _columns_of(record: Record) -> list[str]:
    """The values of the fields that have a column of their own."""
    return [getattr(record, column) for column in type_of(type(record)).columns]
