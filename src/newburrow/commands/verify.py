"""Verifying a finished move: what lies in `new/` is read back and held against the old site."""

from __future__ import annotations

from collections import Counter

from msgspec import Struct

from newburrow.assess.link_map import LinkMap
from newburrow.convert.body.embeds import Embeds
from newburrow.core import csvfile, plugins
from newburrow.core.problem import BurrowError
from newburrow.core.progress import Listener, nobody
from newburrow.decide.move_folder import JOURNAL, STORE, MoveFolder
from newburrow.dialects import loader as dialects
from newburrow.dialects.schema import Dialect
from newburrow.hosts import loader as hosts
from newburrow.hosts.archives import NewArchives
from newburrow.hosts.profile import Profile
from newburrow.model import Site
from newburrow.store.content_store import Store
from newburrow.store.journal.kept_journal import KeptJournal
from newburrow.store.journal.rows import OldAddress
from newburrow.verify.bodies import NewBodies, OldBodies
from newburrow.verify.difference import DIFFERENCES, FIDELITY, Difference
from newburrow.verify.entry_check import CheckedEntry, EntryCheck
from newburrow.verify.fidelity import Fidelity
from newburrow.verify.result import Result
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
    decisions = folder.decisions()
    host = hosts.load(folder.name_or_path(decisions.new.host))
    tally, counts = _Tally(), dict[str, tuple[int, int]]()
    with (
        folder.locked(),
        KeptJournal(folder.path / JOURNAL) as journal,
        Store(folder.path / STORE) as store,
        csvfile.writing(folder.open(FIDELITY), _FIDELITY) as add_entry,
        csvfile.writing(folder.open(DIFFERENCES), _DIFFERENCES) as add_difference,
    ):

        def note(difference: Difference) -> None:
            tally.add(difference)
            add_difference(_cells(difference))

        try:
            with Result(
                folder.path / "new", host.write.get("dialect", ""), listener, jobs or 1
            ) as result:
                check = _verification(folder, journal, store, result, host)
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


def _verification(
    folder: MoveFolder, journal: KeptJournal, store: Store, result: Result, host: Profile
) -> Verification:
    sites = [site.address for site in store.all(Site)]
    spoken = _dialects(folder, store)
    new = journal.handed.site().site.address
    known = _NoNewAnswers(journal)
    old_bodies = OldBodies(store, spoken, LinkMap(known, journal.files, sites, spoken))
    embeds = Embeds(
        [embed for dialect in spoken for embed in dialect.embeds], host.markup.embed
    )
    new_bodies = NewBodies(result, [new, *sites], NewArchives(host, new), embeds)
    format_ = plugins.get(plugins.FORMATS, host.format)
    bodies = (store, old_bodies, new_bodies)
    return Verification(
        folder.path, journal, result, host, EntryCheck(journal, result, host, format_, bodies)
    )


def _dialects(folder: MoveFolder, store: Store) -> list[Dialect]:
    """The dialects that the exports were read in: those that a person named, and those that were recognised."""
    old = folder.decisions().old
    asked = [old.dialect] if isinstance(old.dialect, str) else list(old.dialect)
    names = [folder.name_or_path(name) for name in asked if name]
    names += (site.dialect for site in store.all(Site) if site.dialect)
    known = set(dialects.DIALECTS.names())
    return [
        dialects.load(name)
        for name in dict.fromkeys(names)
        if name in known or name.endswith(".toml")
    ]


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
