"""Two ways of getting the same content, such as a feed and a full export: what only one has, and what differs."""

from __future__ import annotations

import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from msgspec import Struct

from newburrow.core import url
from newburrow.core.progress import Event, Listener, nobody
from newburrow.formats.exports import several
from newburrow.formats.exports.export import ExportRequest
from newburrow.model import Comment, Entry
from newburrow.model.bundle import Above, Bundle
from newburrow.store.build import dialects_of, filled_store
from newburrow.store.content_store import Store
from newburrow.store.journal.handed_over import HandedEntry
from newburrow.store.met_records import MetRecords
from newburrow.verify import entry_facts
from newburrow.verify.addresses import compared
from newburrow.verify.bodies import SiteBodies
from newburrow.verify.body_facts import BodyFacts, facts_of
from newburrow.verify.fidelity import compare

_SHOWN = 10  # entries of each sort that are named
_TOGETHER = 500  # entries compared at a time
_NOBODY = Above("", "")


class Way(Struct, frozen=True):
    """One way of getting the content."""

    paths: list[str]
    seconds: float  # that reading it took
    entries: int
    comments: int
    words: int  # in the texts of entries


class EntryName(Struct, frozen=True):
    """An entry as a person finds it."""

    title: str
    address: str


class Differing(Struct, frozen=True):
    """An entry that both have, and that is not the same in both."""

    title: str
    address: str
    facts: list[str]  # what differs: `title`, `words`, `comments`, ...


class Comparison(Struct, frozen=True):
    """What two ways of getting the same content give."""

    first: Way
    second: Way
    same: int  # entries that are the same in both
    differ: int  # entries that both have, and that are not the same
    only_first: int
    only_second: int
    facts: dict[str, int]  # what differs -> in how many entries
    differing: list[Differing]  # some of them
    in_first: list[EntryName]  # some of those that only the first has
    in_second: list[EntryName]

    @property
    def fuller(self) -> int:
        """1 or 2, the way that has more entries, else comments, else words; 0 where both have as much."""
        first, second = self.first, self.second
        one = (first.entries, first.comments, first.words)
        other = (second.entries, second.comments, second.words)
        if one == other:
            return 0
        if one > other:
            return 1
        return 2


class _Opened(Struct):
    """One way, read."""

    store: Store
    bodies: SiteBodies
    seconds: float


def compare_paths(
    first: ExportRequest, second: ExportRequest, listener: Listener = nobody
) -> Comparison:
    """Read both, and hold each entry of the first against the one of the second that it is.

    They are one if they have the same address, else the same id and title, else the same title and day. Raises
    BurrowError where either cannot be read.
    """
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as name,
        _opened(first, Path(name) / "first", listener) as one,
        _opened(second, Path(name) / "second", listener) as other,
    ):
        return _Comparing(one, other, first, second, listener).comparison()


@contextmanager
def _opened(request: ExportRequest, path: Path, listener: Listener) -> Iterator[_Opened]:
    began = time.monotonic()
    exports = several.examine_all(request)
    with filled_store(path, exports, listener, is_kept=False) as store:
        seconds = time.monotonic() - began
        yield _Opened(store, SiteBodies(store, dialects_of(exports)), seconds)


class _Comparing:
    def __init__(
        self,
        first: _Opened,
        second: _Opened,
        first_request: ExportRequest,
        second_request: ExportRequest,
        listener: Listener,
    ) -> None:
        self.first, self.second, self.listener = first, second, listener
        self.requests = first_request, second_request
        self.records = MetRecords(second.store, Path())
        self.facts = Counter[str]()
        self.words = Counter[int]()
        self.differing: list[Differing] = []
        self.differ = self.same = 0

    def comparison(self) -> Comparison:
        self.records.index()
        alone = list[EntryName]()
        only_first, waiting = 0, list[int]()
        for handed in self._handed():
            if not self.records.take(handed):
                waiting.append(handed.number)
        for number in waiting:
            handed = self._handed_at(number)
            if self.records.take_of_day(handed):
                continue
            only_first += 1
            if len(alone) < _SHOWN:
                alone.append(_name(handed.bundle.entry))
        total = self.first.store.count(Entry)
        for after in range(0, self.first.store.last(Entry) + 1, _TOGETHER):
            for number, found in self.records.pairs(after, after + _TOGETHER):
                entry = next(self.first.store.numbered(Entry, number - 1, number))[1]
                self._hold(entry, found)
            self.listener(Event("Comparing", min(after + _TOGETHER, total), total))
        left, only_second = list[EntryName](), 0
        for only_second, entry in enumerate(self.records.left(), 1):
            if only_second <= _SHOWN:
                left.append(_name(entry))
        return Comparison(
            self._way(self.first, self.requests[0], 1),
            self._way(self.second, self.requests[1], 2),
            self.same,
            self.differ,
            only_first,
            only_second,
            dict(self.facts.most_common()),
            self.differing,
            alone,
            left,
        )

    def _handed(self) -> Iterator[HandedEntry]:
        for number, entry in self.first.store.numbered(Entry):
            yield HandedEntry(number, entry.key, Bundle(entry, new_address=entry.permalink))

    def _handed_at(self, number: int) -> HandedEntry:
        entry = next(self.first.store.numbered(Entry, number - 1, number))[1]
        return HandedEntry(number, entry.key, Bundle(entry, new_address=entry.permalink))

    def _hold(self, entry: Entry, found: Entry) -> None:
        before = entry_facts.found(entry, self.first.store, _NOBODY)
        after = entry_facts.found(found, self.second.store, _NOBODY)
        names = [
            name for name in {**before, **after} if before.get(name, "") != after.get(name, "")
        ]
        if _comments(entry, self.first) != _comments(found, self.second):
            names.append("comments")
        texts = self._text(entry, self.first), self._text(found, self.second)
        for side, text in enumerate(texts, 1):
            self.words[side] += len(text.words)
        names += compare(*texts).changed
        if not names:
            self.same += 1
            return
        self.differ += 1
        self.facts.update(names)
        if len(self.differing) < _SHOWN:
            name = _name(entry)
            self.differing.append(Differing(name.title, name.address, names))

    @staticmethod
    def _text(entry: Entry, way: _Opened) -> BodyFacts:
        page = entry.permalink
        base = entry.body.base or page
        return facts_of(way.bodies.html(entry.body, page), lambda at: compared(at, base))

    def _way(self, way: _Opened, request: ExportRequest, side: int) -> Way:
        paths = [str(path) for path in request.paths]
        counts = way.store.count(Entry), way.store.count(Comment)
        return Way(paths, round(way.seconds, 2), *counts, self.words[side])


def _comments(entry: Entry, way: _Opened) -> int:
    return len(way.store.comments_of(entry))


def _name(entry: Entry) -> EntryName:
    return EntryName(
        entry.title or entry.slug or url.last_name(entry.permalink), entry.permalink
    )
