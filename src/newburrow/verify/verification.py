"""Verifying a move: its result is read back and held against what was handed over, and against the old site."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

from newburrow.convert.body.comment_place import DATA_FILE
from newburrow.core.progress import Event, Listener
from newburrow.hosts.archives import NewArchives
from newburrow.hosts.profile import Profile
from newburrow.model import Entry
from newburrow.model.record_types import kind_of
from newburrow.store.content_store import Store
from newburrow.store.journal import ledger
from newburrow.store.journal.handed_over import HandedEntry
from newburrow.store.journal.kept_journal import KeptJournal
from newburrow.store.met_records import MetRecords
from newburrow.verify import address_check, table_check
from newburrow.verify.difference import Difference
from newburrow.verify.entry_check import CheckedEntry, missing, out_of_order
from newburrow.verify.site_check import SiteCheck

Found = CheckedEntry | Difference


class Verification:
    """One move being verified. What it counts is complete when everything that `run` gives was taken."""

    def __init__(
        self,
        folder: Path,
        journal: KeptJournal,
        result: tuple[Store, MetRecords],
        host: Profile,
        check_all: Callable[[], Iterator[CheckedEntry]],
        says_site: bool,
    ) -> None:
        """`folder` is the move folder; `check_all` checks the entries that were found, when all were looked for.

        `says_site` is whether the result can say facts of the site.
        """
        self._folder, self._journal = folder, journal
        self._store, self._records = result
        self._host, self._check_all = host, check_all
        self._says_site = says_site
        self._archives = NewArchives(host, journal.handed.site().site.address)
        # kind -> how many were handed over, how many are in the result
        self.handed, self.found = Counter[str](), Counter[str]()

    def run(self, listener: Listener) -> Iterator[Found]:
        """What is found of each entry, and every other difference, as it is met."""
        site = self._journal.handed.site().site.address
        beside = SiteCheck(
            self._journal, (self._store, self._records), self._host, self._folder / "new"
        )
        yield from beside.files()
        address_check.add_pages(self._records, self._store, self._journal, self._archives, site)
        yield from self._all_entries(listener)
        yield from beside.left()
        if self._says_site:
            yield from beside.site()
        yield from beside.terms()
        yield from beside.authors()
        yield from beside.data_file()
        yield from address_check.redirects(
            self._folder / "redirects/addresses.csv", self._records, self._archives, site
        )
        yield from table_check.differences(
            self._folder / "ledger.csv", ledger.COLUMNS, self._journal.ledger.table_rows()
        )
        self._count_found()

    def _all_entries(self, listener: Listener) -> Iterator[Found]:
        """Entries by what names them for sure come first, so that none is taken for another that is missing."""
        waiting = list[int]()
        for handed in self._journal.handed.entries():
            self._count_handed(handed)
            if not self._records.take(handed):
                waiting.append(handed.number)
        for number in waiting:
            handed = self._journal.handed.numbered(number)
            if not self._records.take_moved(handed):
                yield missing(handed)
        self._records.publish()
        total = self._journal.handed.count()
        for number, follower in self._records.out_of_order():
            yield out_of_order(self._journal.handed.numbered(number), follower)
        for done, checked in enumerate(self._check_all(), 1):
            yield checked
            if done % 20 == 0 or done == total:
                listener(Event("Comparing", done, total))

    def _count_handed(self, handed: HandedEntry) -> None:
        bundle = handed.bundle
        self.handed[bundle.entry.kind] += 1
        self.handed.update(kind_of(comment) for comment in bundle.comments)
        if bundle.questions:
            self.handed["question"] += len(bundle.questions)

    def _count_found(self) -> None:
        """Kinds are those of the new host."""
        self.handed["media"] = self._journal.handed.count_files()
        self.handed["revision"] = self._journal.handed.count_versions()
        for (table, kind), number in self._store.tally().items():
            if table == Entry.table:
                kind = self._host.kind_for(kind) or kind
            self.found[kind] += number
        self.found["media"] -= self._records.count_files_at(DATA_FILE)
