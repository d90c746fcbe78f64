"""Verifying a finished move: what lies in `new/` is read back and held against the old site."""

from __future__ import annotations

from collections import Counter

from newburrow.commands.entry_checks import checked_entries
from newburrow.commands.finished_move import FinishedMove
from newburrow.core import csvfile, workers
from newburrow.core.problem import BurrowError
from newburrow.core.progress import Listener, nobody
from newburrow.decide.move_folder import MoveFolder
from newburrow.verify.difference import DIFFERENCES, FIDELITY, Difference
from newburrow.verify.entry_check import CheckedEntry
from newburrow.verify.fidelity import Fidelity
from newburrow.verify.result import read_back
from newburrow.verify.verification import Verification
from newburrow.verify.verified import Verified

_FIDELITY = ("kind", "title", "old_address", "new_address", "fidelity", "of", "kept", "changed")
_DIFFERENCES = ("object", "title", "new_address", "fact", "expected", "found", "explained_by")
_SHOWN = 20  # differences that the outcome holds; the table has all


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
    jobs = jobs or workers.available()
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
            with read_back(folder.path / "new", dialect, listener, jobs) as result:
                check = Verification(
                    folder.path,
                    move.journal,
                    (result.store, result.records),
                    move.host,
                    lambda: checked_entries(move, result, jobs),
                )
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
