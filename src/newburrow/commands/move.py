"""Moving: an export becomes what the new host imports, with redirects, ledger, follow-ups and report."""

from __future__ import annotations

import tempfile
from pathlib import Path

from newburrow.commands.opened_move import opened
from newburrow.convert import conversion, result
from newburrow.convert.plan import order
from newburrow.core import workers
from newburrow.core.progress import Listener, nobody
from newburrow.decide.draft import DraftRequest, draft
from newburrow.decide.move_folder import MoveFolder
from newburrow.redirects.known import learn as known_addresses
from newburrow.report import finish
from newburrow.report.outcome import Outcome
from newburrow.store.build import prepare
from newburrow.store.journal.handed_over import HandedOver
from newburrow.verify import questions
from newburrow.write.new_site import NewSite


def move_paths(
    plan: DraftRequest, out: Path, listener: Listener = nobody, jobs: int | None = None
) -> Outcome:
    """Draft a move folder at `out` with the proposed decisions, and carry them out.

    `jobs` is the number of processes, by default as many as can really run at a time. Raises
    BurrowError, with nothing written, where an export cannot be read or a value is wrong.
    """
    jobs = jobs or workers.available()
    prepare(plan.exports.paths, jobs, __name__)
    return move_folder(draft(plan, out, listener, jobs=jobs), listener, jobs=jobs)


def rehearse_paths(
    plan: DraftRequest, listener: Listener = nobody, jobs: int | None = None
) -> Outcome:
    """Do everything that `move_paths` does, and leave nothing on disk.

    Works in a temporary folder that is removed at the end. Gives the same outcome as the real move would:
    counts, redirects and follow-ups. Raises BurrowError where the real move would.
    """
    jobs = jobs or workers.available()
    with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
        folder = draft(plan, Path(name) / "move", listener, jobs=jobs)
        return move_folder(folder, listener, rehearse=True, jobs=jobs)


def move_folder(
    folder: MoveFolder,
    listener: Listener = nobody,
    rehearse: bool = False,
    jobs: int | None = None,
) -> Outcome:
    """Carry out what a move folder decides; a rehearsal writes nothing.

    Raises BurrowError, with nothing written, where that cannot be done.
    """
    jobs = jobs or workers.available()
    if rehearse:
        return _move(folder, listener, True, jobs)
    with folder.locked():
        return _move(folder, listener, False, jobs)


def _move(folder: MoveFolder, listener: Listener, rehearse: bool, jobs: int) -> Outcome:
    with opened(folder, listener, jobs, rehearse) as move:
        context, journal = move.context, move.context.planning
        updated = order.plan(context, listener, jobs)
        order.check_any(context)
        unknown = known_addresses.learn(folder, context).unknown()
        site = NewSite(folder, rehearse, context, move.exports)
        writer = site.writer(updated, move.templates)
        converted = conversion.converted(context, jobs)
        result.write(context, converted, writer, site.copy, listener)
        writer.finish()
        site.pack()
        site.write_beside(unknown)
        if not rehearse:
            handed = HandedOver(journal.connection).entries()
            new = folder.path / "new"
            journal.follow_ups.add(*questions.problems(context.host.format, handed, new, jobs))
        outcome = finish.finish(context, site.output, listener, jobs)
        if not rehearse:
            journal.keep()
        return outcome
