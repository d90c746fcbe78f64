"""A content store that is being filled: what comes is kept, then linked and united, then it is only read."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import TypeVar

import msgspec
from msgspec import Struct

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.model import Author, Comment, Entry, Media, Record, Site, Term
from newburrow.model.keys import bare
from newburrow.model.reading import Item, Mention, Relation
from newburrow.model.record_types import all_types, kind_of, sql_table, table_of, type_of
from newburrow.store.content_store import BATCH, Double, Store, decoder
from newburrow.store.references import Words
from newburrow.store.schema import create_tables, index_columns

R = TypeVar("R", bound=Record)

# passes; comments that answer one another in a circle would go on for ever
_DEEPEST_THREAD = 1000
_BESIDE = {
    "problem": "data",
    "double": "tbl, key, kind, differs, why, data",
    "media_address": "address, key",
    "relation": "entry, data",
}
_relations = msgspec.json.Decoder(Relation)
_encoder = msgspec.json.Encoder()


class Half(Struct, frozen=True):
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
        self._db.execute("PRAGMA journal_mode = OFF")
        self._db.execute("PRAGMA synchronous = OFF")
        self._db.execute("PRAGMA temp_store = FILE")
        self._db.execute("BEGIN")
        create_tables(self._db)
        self._mentioned: dict[tuple[str, str], Author | Term | Site] = {}  # few
        self._tally: Counter[tuple[str, str, str]] = Counter()
        # name -> how many objects have it, an example
        self._extra: dict[str, tuple[int, str]] = {}
        # by author, term and name of a field, which are few
        self._uses: Counter[str] = Counter()
        self._waiting: list[tuple[Record, bytes]] = []
        # the last number of each type in each export
        self._ends: list[dict[type[Record], int]] = []

    # -- filling -------------------------------------------------------------------------------

    def add(self, item: Item | Problem) -> None:
        """Keep a record, or a problem met while reading. The first of several with one key is kept."""
        if isinstance(item, Problem):
            self._db.execute("INSERT INTO problem (data) VALUES (?)", (_encoder.encode(item),))
            return
        if isinstance(item, Mention):
            self._mention(item.record)
            return
        if isinstance(item, Relation):
            self._db.execute(
                "INSERT INTO relation (entry, data) VALUES (?, ?)",
                (item.entry, _encoder.encode(item)),
            )
            return
        self._waiting.append((item, _encoder.encode(item)))
        if len(self._waiting) >= BATCH:
            self._write()

    def _write(self) -> None:
        """Write what waits: rows are written many at once, and those whose key is known one by one."""
        waiting, self._waiting = self._waiting, []
        known: dict[type[Record], set[str]] = {}
        rows: dict[type[Record], list[tuple[object, ...]]] = {}
        again: list[Record] = []
        for kind in dict.fromkeys(type(item) for item, _data in waiting):
            keys = [item.key for item, _data in waiting if type(item) is kind]
            asked = ", ".join("?" * len(keys))
            found = self._db.execute(
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
                    for one in (item.address, *item.addresses)
                    if (key := url.key(one))
                ]
                self._db.executemany("INSERT INTO media_address VALUES (?, ?)", places)
            self._count(item)
            self._use(item)
        for kind, values in rows.items():
            names = _column_names(kind)
            holders = ", ".join("?" * len(names))
            self._db.executemany(
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
            if item.authors:
                self._uses["unsigned"] += 0
            else:
                self._uses["unsigned"] += times

    def _double(self, table: str, record: Record, differs: bool, why: str) -> None:
        values = (table, record.key, kind_of(record), differs, why, _encoder.encode(record))
        self._db.execute(
            "INSERT INTO double (tbl, key, kind, differs, why, data) VALUES (?, ?, ?, ?, ?, ?)",
            values,
        )

    def _mention(self, record: Author | Term | Media | Site) -> None:
        """Authors, terms and sites are few; files are not, and wait on disk."""
        if isinstance(record, Media):
            values = (record.key, url.key(record.address), _encoder.encode(record))
            self._db.execute("INSERT OR IGNORE INTO mention VALUES (?, ?, ?)", values)
        else:
            self._mentioned.setdefault((type(record).__name__, record.key), record)

    def export_ends(self) -> None:
        """Say that what is added from now on is of another export."""
        self._write()
        self._ends.append({kind.record: self.last(kind.record) for kind in all_types()})

    def link(self) -> None:
        """Resolve what could not be resolved before all was read."""
        index_columns(self._db)
        self._find_by_address()
        self._find_entries()
        self._declare_mentioned()
        self._relate()

    def finish(self, meta: Callable[[], dict[str, str]]) -> None:
        """Close the filling: counts and facts about the source are kept with the records."""
        self._write()
        rows = sorted((*key, found) for key, found in self._tally.items())
        self._db.executemany("INSERT INTO tally VALUES (?, ?, ?, ?)", rows)
        for name, (found, example) in sorted(self._extra.items()):
            self._db.execute("INSERT INTO extra VALUES (?, ?, ?)", (name, found, example[:200]))
        self._db.executemany("INSERT INTO uses VALUES (?, ?)", sorted((+self._uses).items()))
        self._db.executemany("INSERT INTO meta VALUES (?, ?)", sorted(meta().items()))
        self._db.execute("COMMIT")

    def _declare_mentioned(self) -> None:
        """Authors and terms that entries name, and nothing declares."""
        for record in self._mentioned.values():
            if self.get(type(record), record.key) is None:
                self.add(record)
        self._mentioned.clear()
        self._write()
        last = ""
        statement = (
            "SELECT key, data FROM mention WHERE key > ? AND address NOT IN (SELECT address FROM media_address) "
            "AND key NOT IN (SELECT key FROM record_media) ORDER BY key LIMIT ?"
        )
        while rows := self._db.execute(statement, (last, BATCH)).fetchall():
            for _key, data in rows:
                self.add(decoder(Media).decode(data))
            last = rows[-1][0]
        self._write()
        self._db.execute("DELETE FROM mention")

    def _relate(self) -> None:
        """Give each entry what was said of it by words, in tables of their own or of what is known only now."""
        words: Words | None = None
        last = ""
        statement = "SELECT DISTINCT entry FROM relation WHERE entry > ? ORDER BY entry LIMIT ?"
        while rows := self._db.execute(statement, (last, BATCH)).fetchall():
            for (last,) in rows:
                found = self._db.execute(
                    "SELECT data FROM relation WHERE entry = ? ORDER BY seq", (last,)
                )
                relations = [_relations.decode(data) for (data,) in found]
                if words is None or words.scope != relations[0].scope:
                    words = Words(relations[0].scope, self.all(Author), self.all(Term))
                entry = self.get(Entry, last)
                if entry is None:
                    self.add(words.no_entry(relations))
                else:
                    self.change(words.related(entry, relations, self))
                    for record in words.new:
                        self.add(record)
                    words.new.clear()
                    self._write()

    def _find_by_address(self) -> None:
        """A comment may say its entry by an address or a lasting identifier of it, which only now are all known."""
        stray = (
            "SELECT seq, data FROM record_comment WHERE entry != '' "
            "AND entry NOT IN (SELECT key FROM record_entry) "
            "AND entry NOT IN (SELECT key FROM record_media) "
            "AND entry NOT IN (SELECT key FROM record_comment) AND seq > ? ORDER BY seq LIMIT ?"
        )
        last, rows = 0, self._db.execute(stray, (0, BATCH)).fetchall()
        if rows:
            self._learn_addresses()
        while rows:
            for number, data in rows:
                last, comment = number, decoder(Comment).decode(data)
                words = (bare(comment.entry), url.key(comment.entry))
                found = [key for word in words if word for key in self.known(f"entry {word}")]
                if found:
                    self.change(msgspec.structs.replace(comment, entry=found[0]))
            rows = self._db.execute(stray, (last, BATCH)).fetchall()

    def _learn_addresses(self) -> None:
        for entry in self.all(Entry):
            for word in sorted(
                {entry.guid, *(url.key(one) for one in (entry.permalink, *entry.addresses))}
                - {""}
            ):
                self.learn(f"entry {word}", entry.key)

    def _find_entries(self) -> None:
        """A comment may say only what it answers; where that is a comment, both belong to the same entry.

        Each pass settles one level of the threads.
        """
        stray = (
            "SELECT c.seq, c.data, p.key, p.entry FROM record_comment c JOIN record_comment p ON p.key = c.entry "
            "WHERE c.entry NOT IN (SELECT key FROM record_entry) AND c.entry NOT IN (SELECT key FROM record_media) "
            "AND c.key != p.entry AND c.seq > ? ORDER BY c.seq LIMIT ?"
        )
        for _level in range(_DEEPEST_THREAD):
            last = moved = 0
            while rows := self._db.execute(stray, (last, BATCH)).fetchall():
                moved += len(rows)
                for _seq, data, parent, entry in rows:
                    comment = decoder(Comment).decode(data)
                    self.change(
                        msgspec.structs.replace(
                            comment, parent=comment.parent or parent, entry=entry
                        )
                    )
                last = rows[-1][0]
            if not moved:
                return

    # -- two halves ----------------------------------------------------------------------------

    def half(self) -> Half:
        """End the filling of a store that is half of one: what it holds in memory, for the other half to take."""
        self._write()
        self._db.execute("COMMIT")
        return Half(
            dict(self._tally), self._extra, dict(self._uses), [*self._mentioned.values()]
        )

    def take(self, path: Path, half: Half) -> None:
        """Add the second half of what is read, which another process filled into a store at `path`."""
        self._write()
        self._db.execute("COMMIT")
        self._db.execute("ATTACH ? AS second", (str(path),))
        self._db.execute("BEGIN")
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
            self._db.execute(
                f"INSERT OR IGNORE INTO {table} ({names}) SELECT {names} FROM second.{table} ORDER BY rowid"
            )
        self._db.execute(
            "INSERT OR IGNORE INTO mention SELECT key, address, data FROM second.mention ORDER BY key"
        )
        self._db.execute("COMMIT")
        self._db.execute("DETACH second")
        self._db.execute("BEGIN")

    def _take_table(self, kind: type[Record]) -> None:
        table, names = sql_table(kind), ", ".join(_column_names(kind))
        known = (
            f"SELECT s.key FROM second.{table} s JOIN {table} f ON f.key = s.key ORDER BY s.seq"
        )
        again = [key for (key,) in self._db.execute(known)]
        for key in again:
            (data,) = self._db.execute(
                f"SELECT data FROM second.{table} WHERE key = ?", (key,)
            ).fetchone()
            record = decoder(kind).decode(data)
            # counted again below
            self._tally[table_of(kind), kind_of(record), getattr(record, "status", "")] -= 1
            self._use(record, -1)
            for name in record.extra:
                self._extra[name] = (self._extra[name][0] - 1, self._extra[name][1])
            self._again(record)
        if again:
            known_here = f"WHERE NOT EXISTS (SELECT 1 FROM {table} f WHERE f.key = s.key)"
        else:
            known_here = ""
        self._db.execute(
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
        rows = self._db.execute(
            "SELECT seq, data FROM record_comment WHERE entry = ? ORDER BY seq", (entry,)
        )
        return [
            (self._export_of(Comment, number), decoder(Comment).decode(data))
            for number, data in rows
        ]

    def learn(self, word: str, key: str, export: int = -1) -> None:
        """Keep, while the store is filled, that a word means a key, in an export where that matters."""
        self._db.execute(
            "CREATE TEMP TABLE IF NOT EXISTS name (word TEXT, key TEXT, export INTEGER)"
        )
        self._db.execute("CREATE INDEX IF NOT EXISTS temp.name_word ON name (word)")
        self._db.execute("INSERT INTO name VALUES (?, ?, ?)", (word, key, export))

    def known(self, word: str, other_than: int = -2) -> list[str]:
        """The keys that a word means, in an export other than this."""
        try:
            found = self._db.execute(
                "SELECT key FROM name WHERE word = ? AND export != ? ORDER BY rowid",
                (word, other_than),
            )
        except sqlite3.OperationalError:  # nothing was learnt
            return []
        return [key for (key,) in found]

    def change(self, record: Record) -> None:
        """Put a record in place of the one of its key."""
        if isinstance(record, Entry) and (before := self.get(Entry, record.key)):
            self._use(before, -1)
            self._use(record)
        kind = type(record)
        columns = "".join(f", {column} = ?" for column in type_of(kind).columns)
        statement = f"UPDATE {sql_table(kind)} SET data = ?{columns} WHERE key = ?"
        values = (_encoder.encode(record), *_columns_of(record), record.key)
        self._db.execute(statement, values)

    def fold(self, record: Record, why: str, differs: bool) -> None:
        """Take a record out, as one with another."""
        self._use(record, -1)
        table = sql_table(type(record))
        self._db.execute(f"DELETE FROM {table} WHERE key = ?", (record.key,))
        self._double(table_of(type(record)), record, differs, why)

    def explain(self, double: Double, why: str, differs: bool) -> None:
        """Say why a record is one with another, and whether they differ all the same."""
        self._db.execute(
            "UPDATE double SET why = ?, differs = ? WHERE seq = ?",
            (why, differs, double.number),
        )


def _column_names(kind: type[Record]) -> tuple[str, ...]:
    return ("key", *type_of(kind).columns, "data")


def _columns_of(record: Record) -> list[str]:
    """The values of the fields that have a column of their own."""
    return [getattr(record, column) for column in type_of(type(record)).columns]


def fill(
    path: Path,
    exports: Iterable[Iterable[Item | Problem]],
    meta: Callable[[], dict[str, str]],
    unite: Callable[[NewStore], None] = lambda _store: None,
) -> Store:
    """A new store at `path` with the records of all exports; nothing stands there before it is whole."""

    def put(store: NewStore) -> None:
        for records in exports:
            for record in records:
                store.add(record)
            store.export_ends()

    return filled(path, put, meta, unite)


def filled(
    path: Path,
    put: Callable[[NewStore], None],
    meta: Callable[[], dict[str, str]],
    unite: Callable[[NewStore], None],
) -> Store:
    """A new store at `path` with what `put` puts into it; nothing stands there before it is whole.

    `meta` gives facts about the source, and is asked last.
    """
    part = path.with_name(path.name + ".part")
    part.unlink(missing_ok=True)
    with NewStore(part) as store:
        try:
            put(store)
            store.link()
            unite(store)
            store.finish(meta)
        except BaseException:
            store.__exit__()
            part.unlink(missing_ok=True)
            raise
    part.replace(path)
    return Store(path)
