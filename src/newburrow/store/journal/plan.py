"""Where each entry goes on the new host."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from enum import StrEnum

from msgspec.structs import astuple, replace

from newburrow.store.journal.rows import Place

_COLUMNS = (
    "seq, key, kind, old, others, new, new_key, wished, public, file, feeds, existing, aside"
)
_BATCH = 500  # places fetched at a time
_AHEAD = 100  # places read along with one that is asked for by its number


class PlaceFilter(StrEnum):
    """Which places `PlanTable.matching` gives."""

    WITH_FEEDS = "feeds != ''"
    LEFT_OUT = "new = '' AND public"


class PlanReader:
    """The plan, to look things up in."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db
        self._near: dict[int, Place] = {}

    def get(self, key: str) -> Place | None:
        """Where an entry goes; None for one that is left out."""
        return next(self._places("WHERE key = ? AND new != ''", key), None)

    def at(self, number: int) -> Place | None:
        """Where the entry of this number goes; None for one that is left out.

        Those after it are read along with it. To be asked only when the plan is complete.
        """
        if number not in self._near:
            rows = self._places(
                "WHERE seq >= ? AND seq < ? ORDER BY seq", number, number + _AHEAD
            )
            self._near = {place.seq: place for place in rows}
        place = self._near.get(number)
        if place and place.new:
            return place
        return None

    def key_at(self, new_key: str) -> str:
        """The key of an entry that goes to this address; empty where none does."""
        row = self._db.execute(
            "SELECT key FROM place WHERE new_key = ? LIMIT 1", (new_key,)
        ).fetchone()
        if row:
            return str(row[0])
        return ""

    def is_ancestor(self, key: str) -> bool:
        """Whether an entry is a parent of one that was asked for."""
        row = self._db.execute("SELECT 1 FROM ancestor WHERE key = ?", (key,)).fetchone()
        return row is not None

    def _places(self, condition: str, *values: object) -> Iterator[Place]:
        rows = self._db.execute(f"SELECT {_COLUMNS} FROM place {condition}", values).fetchall()
        for row in rows:
            place = Place(*row)
            yield replace(
                place,
                public=bool(place.public),
                existing=bool(place.existing),
                aside=bool(place.aside),
            )


class PlanTable(PlanReader):
    """The plan while it is made."""

    def add(self, *places: tuple[Place, str]) -> None:
        """Say where entries go, each with its rank among those that want the same address.

        A rank is compared as text: the date of publication, then the key.
        """
        holders = ", ".join("?" * 14)
        self._db.executemany(
            f"INSERT INTO place VALUES ({holders})",
            [(*astuple(place), rank) for place, rank in places],
        )

    def index(self) -> None:
        """Say that the places of all entries are in: from now on they can be looked up.

        Ids that the new host has for what it holds already take effect.
        """
        # faster than one that grows
        self._db.execute("CREATE UNIQUE INDEX place_key ON place (key)")
        self._db.execute("CREATE INDEX place_new ON place (new_key)")
        self._db.execute(
            "UPDATE id SET new = k.new FROM kept_id k WHERE k.object = id.object AND k.key = id.key"
        )

    def matching(self, which: PlaceFilter) -> Iterator[Place]:
        """Some of the places, in the order of the content store."""
        last = 0
        condition = f"WHERE seq > ? AND {which.value} ORDER BY seq LIMIT {_BATCH}"
        while rows := list(self._places(condition, last)):
            yield from rows
            last = rows[-1].seq

    def claims(self) -> Iterator[tuple[str, str, str, str, str, str, bool]]:
        """Of all that moves: key, old address, others (one a line), new address, its key, file, and if it is public."""
        last = 0
        statement = (
            "SELECT key, old, others, new, new_key, file, public, seq FROM place "
            f"WHERE seq > ? AND new != '' ORDER BY seq LIMIT {_BATCH}"
        )
        while rows := self._db.execute(statement, (last,)).fetchall():
            yield from (row[:-1] for row in rows)
            last = rows[-1][-1]

    def pages(self) -> Iterator[tuple[str, str, str]]:
        """Of all that moves and that a visitor can see: old address, new address, key of that."""
        return self._db.execute(
            "SELECT old, new, new_key FROM place WHERE public AND new != '' ORDER BY seq"
        )

    def collisions(self) -> Iterator[list[Place]]:
        """The places that want one address, as lists with the oldest first."""
        sought = self._db.execute(
            "SELECT new_key FROM place WHERE new != '' AND NOT existing GROUP BY new_key "
            "HAVING count(*) > 1 ORDER BY new_key"
        )
        condition = "WHERE new_key = ? AND NOT existing ORDER BY rank, key"
        for (new_key,) in sought.fetchall():
            yield list(self._places(condition, new_key))

    def change(self, key: str, new: str, new_key: str) -> None:
        """Give an entry another new address; an empty one leaves it out."""
        self._db.execute(
            "UPDATE place SET new = ?, new_key = ? WHERE key = ?", (new, new_key, key)
        )

    def beyond(self, most: int) -> list[str]:
        """Keys of the entries above a host's total: pages come first, then the newest entries."""
        rows = self._db.execute(
            "SELECT key FROM place WHERE new != '' AND NOT existing "
            "ORDER BY kind = 'post', rank DESC, key LIMIT -1 OFFSET ?",
            (most,),
        )
        return [key for (key,) in rows]

    def count(self) -> int:
        """How many entries move and are new to the host."""
        row = self._db.execute("SELECT count(*) FROM place WHERE new != '' AND NOT existing")
        return int(row.fetchone()[0])

    def addresses(self) -> Iterator[str]:
        """The addresses on the new host of all entries that are there in the end."""
        rows = self._db.execute("SELECT new FROM place WHERE new != '' ORDER BY seq")
        return (address for (address,) in rows)

    def count_kinds(self) -> dict[str, int]:
        """How many entries move as each kind of the host."""
        rows = self._db.execute(
            "SELECT kind, count(*) FROM place WHERE new != '' GROUP BY kind ORDER BY kind"
        )
        return dict(rows.fetchall())

    def unreached(self, kind: str) -> Iterator[str]:
        """Keys of the public entries of a kind on the new host that nothing that moves links to."""
        rows = self._db.execute(
            "SELECT key FROM place WHERE public AND new != '' AND NOT existing AND kind = ? "
            "AND new NOT IN (SELECT new FROM shown) ORDER BY seq",
            (kind,),
        )
        return (key for (key,) in rows.fetchall())

    def by_year(self) -> dict[str, tuple[int, int]]:
        """Entries by year (UTC): how many move, how many are left out. Undated ones are not counted."""
        rows = self._db.execute(
            "SELECT strftime('%Y', CAST(rank AS REAL), 'unixepoch') AS year, sum(new != ''), "
            "sum(new = '') FROM place WHERE rank != '' GROUP BY year ORDER BY year"
        )
        return {year: (moved, left_out) for year, moved, left_out in rows if year}

    def add_ancestor(self, key: str) -> None:
        """Note that an entry is a parent of one that was asked for."""
        self._db.execute("INSERT OR IGNORE INTO ancestor VALUES (?)", (key,))
