"""Verifying a finished move: what lies in `new/` is read back and held against the old site."""

from __future__ import annotations

from collections import Counter

from msgspec import Struct

from newburrow.assess.link_map import LinkMap
from newburrow.commands.finished_move import FinishedMove
from newburrow.convert.body.embeds import Embeds
from newburrow.core import csvfile, plugins
from newburrow.core.problem import BurrowError
from newburrow.core.progress import Listener, nobody
from newburrow.decide.move_folder import MoveFolder
from newburrow.hosts.archives import NewArchives
from newburrow.store.journal.kept_journal import KeptJournal
from newburrow.store.journal.rows import OldAddress
from newburrow.verify.bodies import NewBodies, OldBodies
from newburrow.verify.difference import DIFFERENCES, FIDELITY, Difference
from newburrow.verify.entry_check import CheckedEntry, EntryCheck
from newburrow.verify.fidelity import Fidelity
from newburrow.verify.result import Result, read_back
from newburrow.verify.verification import Verification

_FIDELITY = ("kind", "title", "old_address", "new_address", "fidelity", "of", "kept", "changed")
_DIFFERENCES = ("object", "title", "new_address", "fact", "expected", "found", "explained_by")
_SHOWN = 20  # differences that the outcome holds; the table has all


class Verified(Struct, frozen=True):
    """What verifying a move came to."""

    entries: int  # that were found in the result
    as_before: int  # those of them of which all is there
    of: int  # words, headings, links, ... in the bodies of the old site
    kept: int  # those of them that are in the result
    counts: dict[str, tuple[int, int]]  # kind -> handed over, found in the result
    explained: dict[str, int]  # what differs -> how often, where a row says why
    unexplained: dict[str, int]  # what differs -> how often, where nothing does
    first: list[Difference]  # of the unexplained ones

    @property
    def fidelity(self) -> float:
        """The share of what the old bodies held that is in the result, from 0 to 1."""
        return self.kept / self.of if self.of else 1.0

    @property
    def is_right(self) -> bool:
        """Whether every difference is explained."""
        return not self.unexplained


class _Tally:
    """What is counted while differences are written."""

    def __init__(self) -> None:
        self.entries = self.as_before = self.of = self.kept = 0
        self.explained, self.unexplained = Counter[str](), Counter[str]()
        self.first: list[Difference] = []

    def add(self, difference: Difference) -> None:
        """Count a difference."""
        name = f"{difference.object}: {difference.fact}"
        if difference.is_explained:
            self.explained[name] += 1
            return
        self.unexplained[name] += 1
        if len(self.first) < _SHOWN:
            self.first.append(difference)

    def measure(self, fidelity: Fidelity) -> None:
        """Count what is there of a body."""
        self.entries += 1
        self.as_before += fidelity.kept == fidelity.of
        self.of += fidelity.of
        self.kept += fidelity.kept


def verify_folder(
    folder: MoveFolder, listener: Listener = nobody, jobs: int | None = None
) -> Verified:
    """Read the result of a finished move back, and hold it against what was moved.

    Writes `fidelity.csv`, with a row for each entry, and `differences.csv` into the folder. Raises BurrowError where
    the folder has no finished move.
    """
    tally, counts = _Tally(), dict[str, tuple[int, int]]()
    with (
        folder.locked(),
        FinishedMove(folder) as move,
        csvfile.writing(folder.open(FIDELITY), _FIDELITY) as add_entry,
        csvfile.writing(folder.open(DIFFERENCES), _DIFFERENCES) as add_difference,
    ):

        def note(difference: Difference) -> None:
            tally.add(difference)
            add_difference(_cells(difference))

        try:
            dialect = move.host.write.get("dialect", "")
            with read_back(folder.path / "new", dialect, listener, jobs or 1) as result:
                check = _verification(move, result)
                for found in check.run(listener):
                    if isinstance(found, Difference):
                        note(found)
                        continue
                    tally.measure(found.fidelity)
                    add_entry(_row(found))
                    for difference in found.differences:
                        note(difference)
                counts = {
                    kind: (number, check.found[kind])
                    for kind, number in sorted(check.handed.items())
                    if number or check.found[kind]
                }
        except BurrowError as error:
            note(Difference("result", "new/", "", "reading", "a site", error.problem.message))
    return Verified(
        tally.entries,
        tally.as_before,
        tally.of,
        tally.kept,
        counts,
        dict(sorted(tally.explained.items())),
        dict(sorted(tally.unexplained.items())),
        tally.first,
    )


def _verification(move: FinishedMove, result: Result) -> Verification:
    journal, host, spoken = move.journal, move.host, move.dialects
    links = LinkMap(_NoNewAnswers(journal), journal.files, move.old_sites, spoken)
    embeds = Embeds(
        [embed for dialect in spoken for embed in dialect.embeds], host.markup.embed
    )
    archives = NewArchives(host, move.new_site)
    bodies = (
        move.store,
        OldBodies(move.store, spoken, links),
        NewBodies(
            (result.store, result.dialects, result.records),
            [move.new_site, *move.old_sites],
            archives,
            embeds,
        ),
    )
    format_ = plugins.get(plugins.FORMATS, host.format)
    entries = EntryCheck(journal, result.store, host, format_, bodies)
    return Verification(
        move.folder.path, journal, (result.store, result.records), host, entries
    )


class _NoNewAnswers:
    """The answers of a finished move, which stay as they are."""

    def __init__(self, journal: KeptJournal) -> None:
        self._urls = journal.urls

    def get(self, key: str) -> OldAddress | None:
        """The answer to an old address, by its key."""
        return self._urls.get(key)

    def add(self, _row: OldAddress) -> None:
        """Nothing: what is found now was found by the move too."""


def _row(entry: CheckedEntry) -> tuple[object, ...]:
    fidelity = entry.fidelity
    figure = f"{fidelity.figure:.2%}"
    return (
        entry.kind,
        entry.title,
        entry.old,
        entry.new,
        figure,
        fidelity.of,
        fidelity.kept,
        ", ".join(fidelity.changed),
    )


def _cells(difference: Difference) -> tuple[str, ...]:
    return (
        difference.object,
        difference.title,
        difference.address,
        difference.fact,
        difference.expected,
        difference.found,
        difference.why,
    )
