"""The entries of a result checked one after the other, in this process or in several."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

import msgspec

from newburrow.assess.link_map import LinkMap
from newburrow.commands.finished_move import FinishedMove
from newburrow.convert.body.embeds import Embeds
from newburrow.core import plugins
from newburrow.core.workers import Pool
from newburrow.decide.move_folder import MoveFolder
from newburrow.dialects.schema import Dialect, with_heading_ids
from newburrow.hosts.archives import NewArchives
from newburrow.store.content_store import Store
from newburrow.store.journal.kept_journal import KeptJournal
from newburrow.store.journal.rows import OldAddress
from newburrow.store.met_records import MetRecords
from newburrow.verify.anchors import Anchors
from newburrow.verify.bodies import NewBodies, OldBodies
from newburrow.verify.entry_check import CheckedEntry, EntryCheck
from newburrow.verify.result import Result

SHARED = 2000  # entries; with fewer, starting other processes does not pay
_PIECE = 100  # entries given to a process at a time

_encode = msgspec.json.Encoder().encode
_decode = msgspec.json.Decoder(CheckedEntry).decode


def checked_entries(move: FinishedMove, result: Result, jobs: int) -> Iterator[CheckedEntry]:
    """What came of each entry that was found, in the order in which they were handed over."""
    total = move.journal.handed.count()
    pieces = [(first, first + _PIECE) for first in range(0, total, _PIECE)]
    if jobs > 1 and total >= SHARED:
        facts = (move.path, result.store.path, result.dialects)
        with Pool(jobs, _begin, facts) as pool:
            for made in pool.ordered(_piece, pieces):
                yield from map(_decode, made)
        return
    check = _Check(move, result)
    for after, upto in pieces:
        yield from check.each(after, upto)


class _Check:
    """Checks the entries of one result."""

    def __init__(self, move: FinishedMove, result: Result) -> None:
        journal, host, spoken = move.journal, move.host, move.dialects
        links = LinkMap(_NoNewAnswers(journal), journal.files, move.old_sites, spoken)
        known = [embed for dialect in spoken for embed in dialect.embeds]
        embeds = Embeds(known, host.markup.embed)
        new_bodies = NewBodies(
            (result.store, result.dialects, result.records),
            [move.new_site, *move.old_sites],
            NewArchives(host, move.new_site),
            embeds,
        )
        format_ = plugins.get(plugins.FORMATS, host.format)
        old_bodies = OldBodies(move.store, spoken, links, embeds)
        anchors = Anchors(
            result.records,
            journal.handed,
            (move.store, old_bodies),
            new_bodies,
            (with_heading_ids(spoken), with_heading_ids(result.dialects)),
        )
        bodies = (move.store, old_bodies, new_bodies)
        self._entries = EntryCheck(journal, result.store, host, format_, bodies, anchors)
        self._handed, self._records = journal.handed, result.records

    def each(self, after: int, upto: int) -> Iterator[CheckedEntry]:
        """What came of the entries with numbers above `after` and up to `upto`."""
        for number, found in self._records.pairs(after, upto):
            yield self._entries.check(self._handed.numbered(number), found)


class _NoNewAnswers:
    """The answers of a finished move, which stay as they are."""

    def __init__(self, journal: KeptJournal) -> None:
        self._urls = journal.urls

    def get(self, key: str) -> OldAddress | None:
        """The answer to an old address, by its key."""
        return self._urls.get(key)

    def in_any_case(self, key: str) -> OldAddress | None:
        """The answer to the old addresses that differ from this one in letter case alone."""
        return self._urls.in_any_case(key)

    def add(self, _row: OldAddress) -> None:
        """Nothing: what is found now was found by the move too."""


# Of this process, if it was started for this purpose.
_opened: _Check | None = None


def _begin(folder: Path, store: Path, dialects: Sequence[Dialect]) -> None:
    """Open what the checks read, in a process of its own."""
    global _opened
    opened = Store(store)
    result = Result(opened, MetRecords(opened, folder / "new"), tuple(dialects))
    _opened = _Check(FinishedMove(MoveFolder.existing(folder)), result)


def _piece(after: int, upto: int) -> list[bytes]:
    """What came of the entries with these numbers."""
    assert _opened is not None
    return [_encode(checked) for checked in _opened.each(after, upto)]
