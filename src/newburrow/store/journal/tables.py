"""The journal of one move: where each thing goes, what became of it, and what a person must still do.

One SQLite file beside the content store while a move runs. Whatever would otherwise grow in memory with
the export (the address map, the fates) is kept here. `fate` admits one row an object, so an object that
is settled twice is found out at once.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path

import msgspec
from msgspec.structs import astuple

from newburrow.core.problem import Problem, Severity
from newburrow.store.journal.rows import GONE, Fate, Held, OldAddress, Place, Settled
from newburrow.store.schema import OUTCOME, PLAN

OBJECT_ORDER = ("site", "entry", "comment", "author", "term", "media", "menuitem")

_RANKS = {severity: rank for rank, severity in enumerate(Severity)}
_ANSWER = "old, new, status, why, key, new_key"
_ONLY = {"with feeds": " AND feeds != ''", "left": " AND new = '' AND public"}


class Journal:
    """The working tables of one move. Use as a context manager; its files go when it is closed.

    What is planned and what became of it stand in two files: once all is planned other processes read the one, while
    this one writes the other.
    """

    def __init__(self, path: Path) -> None:
        self.path, self.outcome = path, path.with_name(f"{path.name}-outcome")
        for file in (self.path, self.outcome):
            file.unlink(missing_ok=True)
        self._db = sqlite3.connect(path, isolation_level=None)
        self._db.execute("ATTACH ? AS outcome", (str(self.outcome),))
        for name in ("main", "outcome"):
            self._db.execute(f"PRAGMA {name}.journal_mode = OFF")
            self._db.execute(f"PRAGMA {name}.synchronous = OFF")
        for statement in (PLAN + OUTCOME).split(";"):
            self._db.execute(statement)
        self._db.execute("BEGIN")

    def __enter__(self) -> Journal:
        return self

    def __exit__(self, *_exc: object) -> None:
        self._db.close()
        for file in (self.path, self.outcome):
            file.unlink(missing_ok=True)

    def planned(self) -> None:
        """Say that all is planned: from now on other processes can read it."""
        self._db.execute("COMMIT")
        self._db.execute("BEGIN")

    # -- edits ---------------------------------------------------------------------------------

    def edit(self, key: str, line: int, cells: dict[str, str]) -> None:
        """Keep what a person's table says of an entry."""
        self._db.execute(
            "INSERT OR REPLACE INTO edit VALUES (?, ?, ?)",
            (key, line, msgspec.json.encode(cells).decode()),
        )

    def edit_of(self, key: str) -> dict[str, str] | None:
        """What the table says of an entry; None where it says nothing."""
        row = self._db.execute("SELECT data FROM edit WHERE key = ?", (key,)).fetchone()
        if row:
            return msgspec.json.decode(row[0], type=dict[str, str])
        return None

    def edited(self) -> Iterator[tuple[str, int]]:
        """The entries that the table names, each with its line."""
        return (
            (key, line)
            for key, line in self._db.execute(
                "SELECT key, line FROM edit ORDER BY line"
            ).fetchall()
        )

    # -- places --------------------------------------------------------------------------------

    def place(self, *places: tuple[Place, str]) -> None:
        """Say where entries go, each with what decides who is first among equals (the date, then the key)."""
        self._db.executemany(
            "INSERT INTO place VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            [(*astuple(place), at) for place, at in places],
        )

    def placed(self) -> None:
        """Say that it is known where most go: from now on they are looked up, and ids that were kept count."""
        self._db.execute(
            "CREATE UNIQUE INDEX place_key ON place (key)"
        )  # faster than one that grows
        self._db.execute("CREATE INDEX place_new ON place (new_key)")
        self._db.execute(
            "UPDATE id SET new = k.new FROM kept k WHERE k.object = id.object AND k.key = id.key"
        )

    def place_of(self, key: str) -> Place | None:
        """Where an entry goes; None for one that stays behind."""
        return next(self._places("WHERE key = ? AND new != ''", key), None)

    def places(self, only: str) -> Iterator[Place]:
        """The places of _ONLY, in the order of the content store."""
        last = 0
        while True:
            rows = list(
                self._places(f"WHERE seq > ?{_ONLY[only]} ORDER BY seq LIMIT 500", last)
            )
            yield from rows
            if not rows:
                return
            last = rows[-1].seq

    def claims(self) -> Iterator[tuple[str, str, str, str, str, str]]:
        """Key, old address, other old ones (one a line), new address, its key, and file, of all that moves."""
        last = 0
        statement = (
            "SELECT key, old, others, new, new_key, file, seq FROM place WHERE seq > ? AND new != '' "
            "ORDER BY seq LIMIT 500"
        )
        while rows := self._db.execute(statement, (last,)).fetchall():
            yield from (row[:-1] for row in rows)
            last = rows[-1][-1]

    def pages(self) -> Iterator[tuple[str, str, str]]:
        """Old and new address, and the key of that, of all that moves and that a visitor can see."""
        return self._db.execute(
            "SELECT old, new, new_key FROM place WHERE public AND new != '' ORDER BY seq"
        )

    def crowded(self) -> Iterator[list[Place]]:
        """The places that want one address, as lists with the oldest first."""
        wanted = self._db.execute(
            "SELECT new_key FROM place WHERE new != '' AND NOT held GROUP BY new_key "
            "HAVING count(*) > 1 ORDER BY new_key"
        )
        for (new_key,) in wanted.fetchall():
            yield list(self._places("WHERE new_key = ? AND NOT held ORDER BY at, key", new_key))

    def taken(self, new_key: str) -> str:
        """The key of an entry that goes to this address; empty where none does."""
        row = self._db.execute(
            "SELECT key FROM place WHERE new_key = ? LIMIT 1", (new_key,)
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def replace_place(self, key: str, new: str, new_key: str) -> None:
        """Send an entry to another address; with empty ones, leave it behind."""
        self._db.execute(
            "UPDATE place SET new = ?, new_key = ? WHERE key = ?", (new, new_key, key)
        )

    def beyond(self, most: int) -> list[str]:
        """Keys of the entries above a host's total: pages come first, then the newest entries."""
        rows = self._db.execute(
            "SELECT key FROM place WHERE new != '' AND NOT held ORDER BY kind = 'post', at DESC, key LIMIT -1 OFFSET ?",
            (most,),
        )
        return [key for (key,) in rows]

    def count_places(self) -> int:
        """How many entries move."""
        return int(
            self._db.execute(
                "SELECT count(*) FROM place WHERE new != '' AND NOT held"
            ).fetchone()[0]
        )

    def years(self) -> dict[str, tuple[int, int]]:
        """Entries by year (UTC): how many move, how many stay behind. Those without a date are left out."""
        rows = self._db.execute(
            "SELECT strftime('%Y', CAST(at AS REAL), 'unixepoch') AS year, sum(new != ''), "
            "sum(new = '') FROM place WHERE at != '' GROUP BY year ORDER BY year"
        )
        return {year: (moved, left) for year, moved, left in rows if year}

    def _places(self, rest: str, *values: object) -> Iterator[Place]:
        rows = self._db.execute(
            f"SELECT seq, key, kind, old, others, new, new_key, wished, public, file, feeds, held FROM place {rest}",
            values,
        ).fetchall()
        return (
            Place(
                seq,
                key,
                kind,
                old,
                others,
                new,
                new_key,
                wished,
                bool(public),
                file,
                feeds,
                bool(held),
            )
            for seq, key, kind, old, others, new, new_key, wished, public, file, feeds, held in rows
        )

    # -- what the new host holds ---------------------------------------------------------------

    def hold(self, kind: str, key: str, there: Held) -> None:
        """Keep that the new host has something of this key already; of several the first is kept."""
        values = (kind, key, there.title, there.at, there.address, there.id)
        self._db.execute("INSERT OR IGNORE INTO held VALUES (?, ?, ?, ?, ?, ?)", values)

    def held(self, kind: str, key: str) -> Held | None:
        """What the new host has of this key; None where it has nothing."""
        if not self.holds or not key:
            return None
        found = self._db.execute(
            "SELECT title, at, address, id FROM held WHERE kind = ? AND key = ?", (kind, key)
        )
        row = found.fetchone()
        if row:
            return Held(*row)
        return None

    @cached_property
    def holds(self) -> bool:
        """Whether it is known what the new host has. To be asked when that is learnt."""
        return self._db.execute("SELECT 1 FROM held LIMIT 1").fetchone() is not None

    def is_held(self, kind: str, key: str) -> bool:
        """Whether the new host has something of this key."""
        return self.held(kind, key) is not None

    def count_held(self, kind: str) -> int:
        """How many of a kind the new host has."""
        return int(
            self._db.execute("SELECT count(*) FROM held WHERE kind = ?", (kind,)).fetchone()[0]
        )

    # -- ids -----------------------------------------------------------------------------------

    def give_id(self, object_: str, key: str, new: str) -> bool:
        """Give an object its id on the new host; False where that is another's already."""
        done = self._db.execute(
            "INSERT OR IGNORE INTO id VALUES (?, ?, ?)", (object_, key, new)
        )
        return bool(done.rowcount)

    def keep_id(self, object_: str, key: str, new: str) -> None:
        """Give an object the id that the new host has it under, as soon as all are placed."""
        self._db.execute("INSERT INTO kept VALUES (?, ?, ?)", (new, object_, key))

    def id_of(self, object_: str, key: str) -> str:
        """The id of an object on the new host; empty where none was given."""
        row = self._db.execute(
            "SELECT new FROM id WHERE object = ? AND key = ?", (object_, key)
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def ids(self) -> Iterator[tuple[str, str, str]]:
        """All ids given: object, key, id."""
        return self._db.execute("SELECT object, key, new FROM id ORDER BY object, key")

    # -- terms that become pages, what entries show, what stands above ----------------------------

    def file_under(self, term: str, title: str, new: str) -> None:
        """List an entry on the page of a term."""
        self._db.execute("INSERT INTO filed VALUES (?, ?, ?)", (term, title, new))

    def filed_under(self, term: str) -> list[tuple[str, str]]:
        """Title and address of the entries on the page of a term, in the order filed."""
        return self._db.execute(
            "SELECT title, new FROM filed WHERE term = ? ORDER BY rowid", (term,)
        ).fetchall()

    def set_aside(self, data: str) -> None:
        """Keep a line of the data file with what the new host has no place for."""
        self._db.execute("INSERT INTO aside VALUES (?)", (data,))

    def aside(self) -> Iterator[str]:
        """The lines of the data file, in the order set aside."""
        return (data for (data,) in self._db.execute("SELECT data FROM aside ORDER BY rowid"))

    def show(self, new: str) -> None:
        """Say that something that moves shows or links to this new address."""
        self._db.execute("INSERT OR IGNORE INTO shown VALUES (?)", (new,))

    def is_shown(self, new: str) -> bool:
        """Whether something that moves shows or links to a new address."""
        return (
            self._db.execute("SELECT 1 FROM shown WHERE new = ?", (new,)).fetchone() is not None
        )

    def stand_above(self, key: str) -> None:
        """Keep that an entry stands above one that was asked for."""
        self._db.execute("INSERT OR IGNORE INTO above VALUES (?)", (key,))

    def stands_above(self, key: str) -> bool:
        """Whether an entry stands above one that was asked for."""
        return (
            self._db.execute("SELECT 1 FROM above WHERE key = ?", (key,)).fetchone() is not None
        )

    # -- files ---------------------------------------------------------------------------------

    def keep_file(self, key: str, name: str, new: str, digest: str) -> None:
        """Say under which name and address a media goes to the new host."""
        self._db.execute("INSERT INTO file VALUES (?, ?, ?, ?)", (key, name, new, digest))

    def file_of(self, key: str) -> tuple[str, str]:
        """Name and new address of a media; empty for one that does not move."""
        row = self._db.execute("SELECT name, new FROM file WHERE key = ?", (key,)).fetchone()
        if row:
            return (row[0], row[1])
        return ("", "")

    def files(self) -> Iterator[tuple[str, str]]:
        """Key and name of the files that go along, each once, in the order of their keys."""
        return self._db.execute(
            "SELECT min(key), name FROM file WHERE name != '' GROUP BY name ORDER BY 1"
        )

    def file_named(self, name: str) -> tuple[str, str]:
        """Key and digest of the media that has a name; empty where the name is free."""
        row = self._db.execute(
            "SELECT key, digest FROM file WHERE name = ? ORDER BY key LIMIT 1", (name,)
        ).fetchone()
        if row:
            return (row[0], row[1])
        return ("", "")

    def file_with(self, digest: str) -> tuple[str, str]:
        """Key and name of the media that has these bytes; empty where none does."""
        row = self._db.execute(
            "SELECT key, name FROM file WHERE digest = ? ORDER BY key LIMIT 1", (digest,)
        ).fetchone()
        if row:
            return (row[0], row[1])
        return ("", "")

    def file_at(self, new: str) -> str:
        """The key of the media that the new host will have at this address; empty where it has none."""
        row = self._db.execute(
            "SELECT key FROM file WHERE new = ? ORDER BY key LIMIT 1", (new,)
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def lay_beside(self, path: str, new: str) -> None:
        """Say where a file goes of which the export tells no address, only its path."""
        self._db.execute(
            "INSERT INTO beside VALUES (?, ?, ?)", (path.rpartition("/")[2], path, new)
        )

    def files_beside(self, base: str) -> list[tuple[str, str]]:
        """Path and new address of such files with this last name."""
        rows = self._db.execute(
            "SELECT path, new FROM beside WHERE base = ? ORDER BY path", (base,)
        )
        return [(path, new) for path, new in rows]

    def drop_file(self, key: str, why: str) -> None:
        """Leave a file behind after all: what leads to it is gone."""
        name, new = self.file_of(key)
        self._db.execute("UPDATE file SET name = '', new = '' WHERE key = ?", (key,))
        if name and new:
            self._db.execute(
                "UPDATE address SET new = '', new_key = '', status = ?, why = ? WHERE new = ?",
                (GONE, why, new),
            )

    # -- old addresses -------------------------------------------------------------------------

    def answer(self, row: OldAddress) -> OldAddress | None:
        """Set the answer to an old address; where another answer stands already, that one is returned."""
        done = self._db.execute(
            "INSERT OR IGNORE INTO address VALUES (?, ?, ?, ?, ?, ?)", astuple(row)
        )
        if done.rowcount:
            return None
        return self.answer_to(row.key)

    def answer_free(self, rows: list[tuple[OldAddress, str]]) -> bool:
        """Set the answers, each with the entry it is for, to addresses that have none and are no other's new one.

        Tells whether all are set; what is set already is asked for by `taken` and `answer_to`.
        """
        done = self._db.executemany(
            "INSERT OR IGNORE INTO address SELECT ?1, ?2, ?3, ?4, ?5, ?6 "
            "WHERE NOT EXISTS (SELECT 1 FROM place WHERE new_key = ?5 AND key != ?7)",
            [(*astuple(row), owner) for row, owner in rows],
        )
        return done.rowcount == len(rows)

    def answer_later(self, row: OldAddress) -> None:
        """Keep an answer that is to be set when no other process reads what is planned any more."""
        self._db.execute("INSERT OR IGNORE INTO found VALUES (?, ?, ?, ?, ?, ?)", astuple(row))

    def answer_found(self) -> None:
        """Set the answers that were kept for later."""
        self._db.execute("INSERT OR IGNORE INTO address SELECT * FROM found ORDER BY key")

    def answer_to(self, key: str) -> OldAddress | None:
        """The answer to an old address; None where it is unknown."""
        row = self._db.execute(
            f"SELECT {_ANSWER} FROM address WHERE key = ?", (key,)
        ).fetchone()
        if row:
            return OldAddress(*row)
        return None

    def visit(self, key: str, visits: int) -> None:
        """Keep how often an old address was visited."""
        self._db.execute("INSERT INTO visit VALUES (?, ?)", (key, visits))

    def count_visits(self) -> dict[int, int]:
        """How many visits there were to the addresses of each answer; empty where none are known."""
        rows = self._db.execute(
            "SELECT status, sum(visits) FROM visit JOIN address USING (key) GROUP BY status"
        )
        return dict(rows.fetchall())

    def addresses(self) -> Iterator[OldAddress]:
        """All old addresses with their answers, the most visited first, in the order of their keys."""
        visited = self._db.execute("SELECT 1 FROM visit LIMIT 1").fetchone() is not None
        if visited:
            order = "LEFT JOIN visit USING (key) ORDER BY coalesce(visits, 0) DESC, key"
        else:
            order = "ORDER BY key"
        return (
            OldAddress(*row)
            for row in self._db.execute(f"SELECT {_ANSWER} FROM address {order}")
        )

    def folders(self) -> Iterator[OldAddress]:
        """The answers to old addresses that end in a slash; others may be set meanwhile."""
        statement = (
            f"SELECT {_ANSWER} FROM address WHERE key > ? AND key LIKE '%/' AND instr(key, '?') = 0 "
            "ORDER BY key LIMIT 500"
        )
        last = ""
        while rows := [OldAddress(*row) for row in self._db.execute(statement, (last,))]:
            yield from rows
            last = rows[-1].key

    def count_addresses(self) -> dict[int, int]:
        """How many old addresses there are for each answer."""
        return dict(
            self._db.execute(
                "SELECT status, count(*) FROM address GROUP BY status ORDER BY status"
            )
        )

    # -- fates ---------------------------------------------------------------------------------

    def settle(self, *rows: Settled) -> None:
        """Say what became of objects. Raises sqlite3.IntegrityError when that was said before."""
        self._db.executemany(
            "INSERT INTO fate VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            [
                (
                    row.object,
                    row.key,
                    row.kind,
                    row.fate.value,
                    row.reason,
                    row.title,
                    row.old,
                    row.new,
                    row.nth,
                    OBJECT_ORDER.index(row.object),
                )
                for row in rows
            ],
        )

    def is_settled(self, object_: str, key: str) -> bool:
        """Whether it was said what became of an object."""
        row = self._db.execute(
            "SELECT 1 FROM fate WHERE object = ? AND key = ? AND nth = 0", (object_, key)
        ).fetchone()
        return row is not None

    def fates(self, only: str = "") -> Iterator[Settled]:
        """The ledger: entries, comments, authors, terms, media, each in the order settled."""
        if only == "not-moved":
            where = "WHERE fate != 'moved'"
        elif only:
            where = "WHERE fate = 'moved'"
        else:
            where = ""
        rows = self._db.execute(
            f"SELECT object, key, kind, fate, reason, title, old, new, nth FROM fate {where} ORDER BY rank, rowid"
        )
        return (Settled(row[0], row[1], row[2], Fate(row[3]), *row[4:]) for row in rows)

    def ledger(self) -> Iterator[tuple[str, ...]]:
        """Rows of key, kind, title, old address, new address, fate, reason, in the order of `fates`."""
        for rank in range(
            len(OBJECT_ORDER)
        ):  # one after the other, which spares sorting them all
            yield from self._db.execute(
                "SELECT key, kind, title, old, new, fate, reason FROM fate WHERE rank = ? ORDER BY rowid",
                (rank,),
            )

    def count_fates(self) -> dict[tuple[str, str, Fate], int]:
        """How many objects met each fate: (object, kind, fate) -> number."""
        rows = self._db.execute(
            "SELECT object, kind, fate, count(*) FROM fate GROUP BY rank, kind, fate ORDER BY rank, kind, fate"
        )
        return {(object_, kind, Fate(fate)): number for object_, kind, fate, number in rows}

    # -- follow-ups ----------------------------------------------------------------------------

    def follow_up(self, *problems: Problem) -> None:
        """Keep things that a person must still do or know."""
        self._db.executemany(
            "INSERT INTO follow_up (severity, rank, code, message, advice, file, line, object, key) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            [
                (
                    one.severity.value,
                    _RANKS[one.severity],
                    one.code,
                    one.message,
                    one.advice,
                    one.where.file,
                    one.where.line,
                    one.object,
                    one.key,
                )
                for one in problems
            ],
        )

    def follow_ups(self) -> Iterator[tuple[str, str, str, str, str, str, str]]:
        """Rows of code, severity, title, old address, new address, what, suggestion; the worst first."""
        return self._db.execute(
            "SELECT u.code, u.severity, coalesce(f.title, ''), coalesce(f.old, ''), coalesce(f.new, ''), "
            "u.message, u.advice FROM follow_up u LEFT JOIN fate f "
            "ON f.object = u.object AND f.key = u.key AND f.nth = 0 ORDER BY u.rank DESC, u.code, u.seq"
        )

    def count_kinds(self) -> dict[str, int]:
        """How many entries move as each kind of the host."""
        return dict(
            self._db.execute(
                "SELECT kind, count(*) FROM place WHERE new != '' GROUP BY kind ORDER BY kind"
            )
        )

    def count_code(self, code: str) -> int:
        """How many follow-ups there are of one code."""
        return int(
            self._db.execute(
                "SELECT count(*) FROM follow_up WHERE code = ?", (code,)
            ).fetchone()[0]
        )

    def count_follow_ups(self) -> dict[str, int]:
        """How many follow-ups there are of each severity, the worst first."""
        return dict(
            self._db.execute(
                "SELECT severity, count(*) FROM follow_up GROUP BY rank ORDER BY rank DESC"
            )
        )
