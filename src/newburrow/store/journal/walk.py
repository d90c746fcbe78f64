"""The walk through a site: which pages are reached from its home page and its menu, link by link, before and after."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator

from msgspec import Struct

from newburrow.core import url

MOVED, GONE, UNKNOWN = "moved", "gone", "unknown"  # where a link leads
_BATCH = 500


class WalkedLink(Struct, frozen=True, array_like=True):
    """A link on a page of the old site."""

    source: str  # key of the entry it is in
    target: str  # new address where that moves, else old address
    leads: str  # MOVED, GONE or UNKNOWN


class WalkedPage(Struct, frozen=True):
    """A page that something is to be said of."""

    key: str
    old: str
    new: str
    before: int
    after: int


class NoLinks:
    """Takes links of pages that are made for the new site: they are no part of a walk through the old one."""

    def add(self, _old: str, _leads: str) -> None:
        """Forget it."""


class WalkTable:
    """The links of all pages, and what can be reached by them."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    def add(self, *links: WalkedLink) -> None:
        """Keep the links of one entry."""
        self._db.executemany(
            "INSERT INTO led VALUES (?, ?, ?)",
            [(link.source, _node(link.target, link.leads), link.leads) for link in links],
        )

    def settle(self, roots: Iterable[str]) -> None:
        """All links are in: find what is reached from the entries with these keys, before the move and after it."""
        self._db.execute("CREATE INDEX outcome.led_source ON led (source)")
        self._db.execute("CREATE INDEX outcome.led_target ON led (target)")
        self._db.executemany(
            "INSERT OR IGNORE INTO root VALUES (?)", ((key,) for key in sorted(roots))
        )
        self._db.execute(
            "INSERT OR IGNORE INTO node SELECT new_key, key FROM place WHERE new != ''"
        )
        last = 0
        left_out = (
            "SELECT seq, key, old FROM place WHERE new = '' AND seq > ? ORDER BY seq LIMIT ?"
        )
        while rows := self._db.execute(left_out, (last, _BATCH)).fetchall():
            self._db.executemany(
                "INSERT OR IGNORE INTO node VALUES (?, ?)",
                [(_node(old, GONE), key) for _seq, key, old in rows],
            )
            last = rows[-1][0]
        moves = "AND source IN (SELECT key FROM place WHERE new != '')"
        for table, of_source in (("reached_before", ""), ("reached_after", moves)):
            self._db.execute(
                f"INSERT INTO {table} WITH RECURSIVE reached(key) AS ("
                "SELECT key FROM root UNION SELECT node.key FROM reached "
                f"JOIN led ON led.source = reached.key {of_source} "
                "JOIN node ON node.target = led.target) SELECT key FROM reached"
            )

    def counts(self) -> dict[str, tuple[int, int]]:
        """Of pages: how many `reached` and `unreached`; links that are `dead`; each before and after."""
        pages_before = "SELECT count(*) FROM place WHERE public"
        pages_after = f"{pages_before} AND new != ''"
        reached = (
            self._number(f"{pages_before} AND key IN (SELECT key FROM reached_before)"),
            self._number(f"{pages_after} AND key IN (SELECT key FROM reached_after)"),
        )
        dead = (
            self._number(f"SELECT count(*) FROM led WHERE leads = '{UNKNOWN}'"),
            self._number(
                f"SELECT count(*) FROM led WHERE leads != '{MOVED}' "
                "AND source IN (SELECT key FROM place WHERE new != '')"
            ),
        )
        pages = (self._number(pages_before), self._number(pages_after))
        return {
            "reached": reached,
            "unreached": (pages[0] - reached[0], pages[1] - reached[1]),
            "dead": dead,
        }

    def unreached(self) -> Iterator[WalkedPage]:
        """Pages that nothing reaches, before or after; the numbers are 1 where it is reached."""
        rows = self._db.execute(
            "SELECT key, old, new, key IN (SELECT key FROM reached_before), "
            "new != '' AND key IN (SELECT key FROM reached_after) FROM place WHERE public AND "
            "(key NOT IN (SELECT key FROM reached_before) "
            "OR (new != '' AND key NOT IN (SELECT key FROM reached_after))) ORDER BY seq"
        )
        return (WalkedPage(*row) for row in rows)

    def dead(self) -> Iterator[tuple[WalkedPage, str]]:
        """Links that lead nowhere, before or after, with the page that each is on; in the order of the pages."""
        rows = self._db.execute(
            "SELECT place.key, place.old, place.new, led.leads, led.target FROM led "
            f"JOIN place ON place.key = led.source WHERE led.leads != '{MOVED}' "
            f"AND (led.leads = '{UNKNOWN}' OR place.new != '') ORDER BY place.seq, led.rowid"
        )
        for key, old, new, leads, target in rows:
            page = WalkedPage(key, old, new, int(leads == UNKNOWN), int(new != ""))
            yield page, target.removeprefix("old ")

    def shows(self, new: str) -> tuple[bool, bool]:
        """Whether a page shows or links to a file of this new address: before, and after."""
        node = _node(new, MOVED)
        before = self._number("SELECT count(*) FROM led WHERE target = ?", node)
        after = self._number(
            "SELECT count(*) FROM led WHERE target = ? "
            "AND source IN (SELECT key FROM place WHERE new != '')",
            node,
        )
        return before > 0, after > 0

    def _number(self, statement: str, *values: str) -> int:
        return int(self._db.execute(statement, values).fetchone()[0])


def _node(target: str, leads: str) -> str:
    """The name of what a link leads to, the same however the address is written."""
    bare = target.partition("#")[0]
    if leads == MOVED:
        return url.key(bare)
    if leads == GONE:
        return f"old {url.key(bare)}"
    return f"old {target}"
