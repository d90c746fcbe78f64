"""Verifying a finished move: what lies in `new/` is read back and held against the old site."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from itertools import chain

from newburrow.commands import servers_files
from newburrow.commands.entry_checks import checked_entries
from newburrow.commands.finished_move import FinishedMove
from newburrow.commands.result_dialect import dialect_of
from newburrow.core import csvfile, workers
from newburrow.core.problem import BurrowError
from newburrow.core.progress import Listener, nobody
from newburrow.decide.move_folder import MoveFolder
from newburrow.report import fidelity_part, samples
from newburrow.report.fidelity_part import LowEntry, Measured
from newburrow.report.files import REPORT
from newburrow.report.samples import SampleSource
from newburrow.verify.body_facts import ASPECTS
from newburrow.verify.difference import DIFFERENCES, FIDELITY, Difference
from newburrow.verify.entry_check import CheckedEntry
from newburrow.verify.fidelity import Kept
from newburrow.verify.result import read_back
from newburrow.verify.verification import Verification
from newburrow.verify.verified import Verified

_FIDELITY = ("kind", "title", "old_address", "new_address", "fidelity", "of", "kept", "changed")
_DIFFERENCES = ("object", "title", "new_address", "fact", "expected", "found", "explained_by")
_LOWEST = 20  # entries that the report names
_LOW_SAMPLES = 5  # of which it shows the texts
_NONE = Kept(0, 0, 0)
_SHOWN = 20  # differences that the outcome holds; the table has all


class _Tally:
    """What is counted while differences are written."""

    def __init__(self) -> None:
        self.entries = self.as_before = self.of = self.kept = 0
        self.explained, self.unexplained = Counter[str](), Counter[str]()
        self.first: list[Difference] = []
        self.aspects: dict[str, Kept] = {}
        self.lowest: list[LowEntry] = []

    def add(self, difference: Difference) -> None:
        """Count a difference."""
        name = f"{difference.object}: {difference.fact}"
        if difference.is_explained:
            self.explained[name] += 1
            return
        self.unexplained[name] += 1
        if len(self.first) < _SHOWN:
            self.first.append(difference)

    def measure(self, entry: CheckedEntry) -> None:
        """Count what is there of a body."""
        fidelity = entry.fidelity
        self.entries += 1
        self.as_before += fidelity.kept == fidelity.of
        self.of += fidelity.of
        self.kept += fidelity.kept
        for aspect, kept in fidelity.aspects.items():
            self.aspects[aspect] = self.aspects.get(aspect, _NONE) + kept
        if fidelity.kept < fidelity.of:
            low = LowEntry(
                entry.key, entry.title, entry.old, fidelity.figure, ", ".join(fidelity.changed)
            )
            self.lowest = sorted([*self.lowest, low], key=lambda low: low.figure)[:_LOWEST]

    def measured(self) -> Measured:
        """What the report shows of it."""
        return Measured(
            self.kept / self.of if self.of else 1.0,
            self.entries,
            self.as_before,
            self.unexplained.total(),
            [(name, self.aspects[name]) for name in ASPECTS if name in self.aspects],
            self.lowest,
        )


def verify_folder(
    folder: MoveFolder, listener: Listener = nobody, jobs: int | None = None
) -> Verified:
    """Read the result of a finished move back, and hold it against what was moved.

    Writes `fidelity.csv`, with a row for each entry, and `differences.csv` into the folder, and what was measured
    into its report. Raises BurrowError where the folder has no finished move.
    """
    with folder.locked(), FinishedMove(folder) as move:
        dialect = dialect_of(move)
        return _verified(move, dialect, listener, jobs or workers.available())


def _verified(move: FinishedMove, dialect: str, listener: Listener, jobs: int) -> Verified:
    folder = move.folder
    tally, counts = _Tally(), dict[str, tuple[int, int]]()
    with (
        csvfile.writing(folder.open(FIDELITY), _FIDELITY) as add_entry,
        csvfile.writing(folder.open(DIFFERENCES), _DIFFERENCES) as add_difference,
    ):

        def note(difference: Difference) -> None:
            tally.add(difference)
            add_difference(_cells(difference))

        try:
            with (
                servers_files.differences(move, jobs) as servers,
                read_back(folder.path / "new", dialect, listener, jobs) as result,
            ):
                check = Verification(
                    folder.path,
                    move.journal,
                    (result.store, result.records),
                    move.host,
                    lambda: checked_entries(move, result, jobs),
                    result.says_site,
                )
                for found in chain(check.run(listener), _result_of(servers)):
                    if isinstance(found, Difference):
                        note(found)
                        continue
                    tally.measure(found)
                    add_entry(_row(found))
                    for difference in found.differences:
                        note(difference)
                counts = {
                    kind: (number, check.found[kind])
                    for kind, number in sorted(check.handed.items())
                    if number or check.found[kind]
                }
            _report(move, tally.measured())
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


def _result_of(call: Callable[[], list[Difference]]) -> Iterator[Difference]:
    """What a call gives, which is made when everything before it was taken."""
    yield from call()


def _report(move: FinishedMove, measured: Measured) -> None:
    """Put what was measured into the report of the move, with samples of the entries that lost most."""
    low = [
        (entry.key, f"{entry.figure:.1%} of its text is there")
        for entry in measured.lowest[:_LOW_SAMPLES]
    ]
    source = SampleSource(
        move.store, move.dialects, move.journal, move.journal.handed, move.path
    )
    report = move.path / REPORT
    fidelity_part.write_into(report, measured, samples.as_json(source, low))


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
