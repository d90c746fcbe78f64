"""Moving: an export becomes what the new host imports, with redirects, ledger, follow-ups and report."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from newburrow.convert import conversion, open_context, result
from newburrow.convert.context import Context
from newburrow.convert.plan import order
from newburrow.core import workers
from newburrow.core.progress import Listener, nobody
from newburrow.decide import checks, existing_content
from newburrow.decide.draft import DraftRequest, draft
from newburrow.decide.move_folder import ENTRIES, JOURNAL, STORE, MoveFolder
from newburrow.formats.exports import several
from newburrow.hosts import loader as hosts
from newburrow.redirects.known import learn as known_addresses
from newburrow.report import finish
from newburrow.report.outcome import Outcome
from newburrow.store.build import dialects_of, filled_store, prepare
from newburrow.store.journal.journal import Journal
from newburrow.verify.questions import QuestionCheck
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
    decisions = folder.decisions()
    request = folder.exports(decisions.old)
    prepare(request.paths, jobs, __name__)
    name = folder.name_or_path(decisions.new.host)
    host, templates = hosts.load(name), hosts.templates(name)
    checks.check(folder, decisions, host)
    checks.check_exports(folder, decisions.old.paths)
    if not rehearse:
        read = [*request.paths, *(folder.path / path for path in decisions.new.holds)]
        folder.check_apart(read)
    exports = several.examine_again(request)
    with _workplace(folder, rehearse) as (work, store_path):
        if not rehearse:
            folder.claim(STORE)
        with (
            filled_store(store_path, exports, listener, jobs) as store,
            Journal(work / JOURNAL) as journal,
        ):
            journal.follow_ups.add(*store.problems())
            context = open_context.context_of(
                folder, decisions, host, store, journal, dialects_of(exports)
            )
            _learn_decisions(folder, context, listener)
            updated = order.plan(context, listener, jobs)
            order.check_any(context)
            unknown = known_addresses.learn(folder, context).unknown()
            site = NewSite(folder, rehearse, context, exports)
            check = QuestionCheck(host.format, rehearse)
            writer = check.watching(site.writer(updated, templates))
            converted = conversion.converted(context, jobs)
            result.write(context, converted, writer, site.copy, listener)
            writer.finish()
            site.pack()
            site.write_beside(unknown)
            context.journal.follow_ups.add(*check.problems(folder.path / "new"))
            outcome = finish.finish(context, site.output, listener, jobs)
            if not rehearse:
                journal.keep()
            return outcome


def _learn_decisions(folder: MoveFolder, context: Context, listener: Listener) -> None:
    """Read what is in tables and in the new host's own export; refuse what names nothing."""
    store, journal, decisions = context.store, context.planning, context.decisions
    checks.check_words(folder, decisions, store)
    if folder.has(ENTRIES):
        context.has_edits = True
        context.edits.file = str(folder.path / ENTRIES)
        context.edits.learn(folder.entry_rows(), journal.edits)
    checks.say_unknown_rows(context.author_choices, context.term_choices, store, journal)
    existing = [folder.path / path for path in decisions.new.holds]
    existing_content.learn(existing, journal, listener)
    checks.check_created(folder, context.author_choices, store, journal.existing)


@contextmanager
def _workplace(folder: MoveFolder, rehearse: bool) -> Iterator[tuple[Path, Path]]:
    """Where the journal and the store are: in the folder, or for a rehearsal in a temporary one."""
    if not rehearse:
        yield folder.path, folder.path / STORE
        return
    with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
        copy = Path(name) / STORE
        if folder.has(STORE):
            shutil.copyfile(folder.path / STORE, copy)
        yield Path(name), copy
