"""One whole move, from the paths handed in to the finished folder."""

from __future__ import annotations

import io
import os
import shutil
import tempfile
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import BinaryIO, cast

import msgspec
from msgspec import Struct

from newburrow.convert import pool, run
from newburrow.convert.body.comment_place import DATA_FILE
from newburrow.convert.context import Context
from newburrow.convert.plan import existing_reader, ids, menus
from newburrow.core import csvfile, plugins, url, workers
from newburrow.core.problem import Problem, Severity, stop
from newburrow.core.progress import Event, Listener, nobody
from newburrow.decide import checks
from newburrow.decide.decisions import Decisions
from newburrow.decide.draft import Plan, draft
from newburrow.decide.move_folder import ENTRIES, STORE, MoveFolder
from newburrow.dialects import loader as dialects
from newburrow.formats.base import Job
from newburrow.formats.exports import detection, several
from newburrow.hosts import loader as hosts
from newburrow.hosts.profile import Profile
from newburrow.model import Entry, Media
from newburrow.redirects import server_files, sitemap, table
from newburrow.redirects.known import learn
from newburrow.report import accounting, charts, ledger, page
from newburrow.report.accounting import Account
from newburrow.store import two_halves
from newburrow.store.build import dialects_of, filled_store
from newburrow.store.content_store import Store
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED

JOURNAL, ADDRESSES = ".journal.sqlite", "redirects/addresses.csv"
PROCESSES = os.cpu_count() or 1
UNKNOWN, CHANGED = "redirects/unknown.csv", "redirects/changed.csv"
IDS, ID_COLUMNS = "ids.csv", ("object", "title", "old_id", "new_id")
_OURS = ("new/", "redirects/", "ledger.csv", "follow-ups.csv", "report.html", IDS)


class Outcome(Struct, frozen=True):
    """What a move came to."""

    counts: dict[str, Account]  # by kind of object
    redirects: dict[str, int]  # unchanged, redirected, gone -> number of old addresses
    follow_ups: dict[str, int]  # severity -> number
    out: Path | None  # the move folder; None for a rehearsal
    problems: list[Problem]  # what does not add up

    @property
    def complete(self) -> bool:
        """Whether everything is accounted for and nothing failed."""
        return not self.problems and not any(account.failed for account in self.counts.values())


def move_paths(plan: Plan, out: Path, listener: Listener = nobody) -> Outcome:
    """Draft a move folder with the proposed decisions, and carry them out."""
    _prepare(plan.paths)
    return move_folder(draft(plan, out, listener), listener)


def rehearse_paths(plan: Plan, listener: Listener = nobody) -> Outcome:
    """All of a move but its result: nothing is left behind on disk."""
    with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
        return move_folder(draft(plan, Path(name) / "move", listener), listener, rehearse=True)


def move_folder(
    folder: MoveFolder, listener: Listener = nobody, rehearse: bool = False
) -> Outcome:
    """Carry out what a move folder says. Raises BurrowError, with nothing written, where it cannot be."""
    decisions = folder.decisions()
    _prepare(folder.path / path for path in decisions.old.paths)
    name = folder.name_or_path(decisions.new.host)
    host, templates = hosts.load(name), hosts.templates(name)
    checks.check(folder, decisions, host)
    dialect = folder.name_or_path(decisions.old.dialect)
    for path in decisions.old.paths:
        if not (folder.path / path).exists():
            raise stop(
                "no-such-file",
                f"The export {path!r} is no longer there.",
                "Put it back, or correct old.paths (relative to the move folder).",
                folder.line_in_move(["old", "paths"]),
            )
    exports = several.examine_all([folder.path / path for path in decisions.old.paths], dialect)
    with _workplace(folder, rehearse) as (work, store_path):
        if not rehearse:
            folder.claim(STORE)
        with (
            filled_store(store_path, exports, listener) as store,
            Journal(work / JOURNAL) as journal,
        ):
            for problem in store.problems():
                journal.follow_ups.add(problem)
            context = context_of(folder, decisions, host, store, journal, exports)
            checks.check_words(folder, decisions, store)
            if folder.has(ENTRIES):
                context.has_edits = True
                context.edits.file = str(folder.path / ENTRIES)
                context.edits.learn(folder.entry_rows(), journal.edits)
            checks.say_unknown_rows(context)
            existing_reader.learn(
                [folder.path / path for path in decisions.new.holds], journal, listener
            )
            checks.check_created(folder, context)
            newest = run.plan(context, listener, PROCESSES)
            unknown = learn.learn(folder, context).unknown()
            output = _Output(folder, rehearse)
            context.new = menus.of_site(context)
            writer = plugins.get(plugins.FORMATS, host.format).write(
                output, _job(context, newest, templates)
            )
            run.write(context, writer, partial(_copy, exports, output), listener, PROCESSES)
            writer.finish()
            _write_beside(context, output)
            if unknown:
                with output.plain(UNKNOWN) as stream:
                    csvfile.write(stream, ("address", "visits"), unknown)
            return _finished(folder, context, output, listener)


def _prepare(paths: Iterable[Path]) -> None:
    """Have other processes ready, where there is enough to do for them."""
    if any(path.is_file() and path.stat().st_size >= two_halves.LARGE for path in paths):
        workers.prepare(__name__)


@contextmanager
def _workplace(folder: MoveFolder, rehearse: bool) -> Iterator[tuple[Path, Path]]:
    """Where the journal and the store stand: in the folder, or for a rehearsal in one that goes again."""
    if not rehearse:
        yield folder.path, folder.path / STORE
        return
    with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
        copy = Path(name) / STORE
        if folder.has(STORE):
            shutil.copyfile(folder.path / STORE, copy)
        yield Path(name), copy


def _job(context: Context, newest: str, templates: dict[str, str]) -> Job:
    """What the writer is told."""
    host = context.host
    name = host.write.get("dialect", "")
    if name:
        dialect = dialects.load(name)
    else:
        dialect = None
    return Job(
        context.new,
        host.write,
        newest,
        dialect,
        host.limits.file_bytes or 0,
        templates,
        menus.plan(context),
    )


def context_of(
    folder: MoveFolder,
    decisions: Decisions,
    host: Profile,
    store: Store,
    journal: Journal,
    exports: Sequence[detection.Export],
) -> Context:
    """One move, as a folder decides it."""
    old = store.site()
    new = msgspec.structs.replace(old, address=decisions.new.address)
    return Context(
        store,
        journal,
        host,
        dialects_of(exports),
        decisions,
        folder.author_choices(),
        folder.term_choices(),
        old,
        new,
    )


def _write_beside(context: Context, output: _Output) -> None:
    """What the new host has no place for, and the table of the ids that changed; whether all is small enough."""
    lines = context.planning.data_lines.all()
    first = next(lines, None)
    if first is not None:
        with output.open(DATA_FILE) as stream:
            for line in (first, *lines):
                stream.write(f"{line}\n".encode("utf-8", "replace"))
    most = context.host.limits.total_bytes
    if most and output.written > most:
        message = (
            f"What was written has {output.written:,} bytes; the host takes {most:,} in all."
        )
        advice = "Choose fewer in move.toml, or ask the host for a larger plan."
        context.journal.follow_ups.add(Problem(Severity.ERROR, "host-limit", message, advice))
    if context.has_ids:
        with output.plain(IDS) as stream:
            csvfile.write(stream, ID_COLUMNS, ids.changed(context))


def _finished(
    folder: MoveFolder, context: Context, output: _Output, listener: Listener
) -> Outcome:
    """Write what tells of the move, and hold what was found against what became of it."""
    journal = context.planning
    listener(Event("Writing redirects, ledger and report", 0, 1, "steps"))
    counts = accounting.accounts(context.store, journal)
    problems = accounting.check(counts)
    for problem in problems:
        journal.follow_ups.add(problem)
    wanted, many = context.decisions.redirects, context.store.count(Entry) >= pool.SHARED
    with server_files.writing(wanted, journal, output.plain, many and PROCESSES > 1) as told:
        # What takes long and needs no answer of theirs is done while the servers are written.
        table.write(output.plain(ADDRESSES), journal.urls.all(), wanted.status)
        csvfile.write(output.plain(CHANGED), ("old", "new"), _changed(journal))
        pages = (new for _old, new, _key in journal.plan.pages())
        sitemap.write(
            lambda name: output.plain(f"redirects/{name}"), pages, context.new.address
        )
        ledger.write_fates(output.plain, journal)
        if not output.rehearse:
            chart = charts.by_year(journal.plan.by_year())
        else:
            chart = ""
    for name, written in told.items():
        _say_skipped(name, written.skipped, journal)
    ledger.write_follow_ups(output.plain, journal)
    outcome = Outcome(
        counts,
        redirect_counts(journal),
        journal.follow_ups.count(),
        None if output.rehearse else folder.path,
        problems,
    )
    if not output.rehearse:
        with output.plain("report.html") as stream:
            page.write(stream, context, counts, outcome.redirects, chart)
        folder.tidy(_OURS)
    return outcome


def _changed(journal: Journal) -> Iterator[tuple[str, str]]:
    """Old and new address of each page that a visitor can see and that stands elsewhere now."""
    for old, new, new_key in journal.plan.pages():
        if old and url.key(old) != new_key:
            yield old, new


def redirect_counts(journal: Journal) -> dict[str, int]:
    """How many old addresses stay as they are, are redirected, and are gone."""
    counts = journal.urls.count()
    return {
        name: counts.get(status, 0)
        for name, status in (
            ("unchanged", UNCHANGED),
            ("redirected", REDIRECTED),
            ("gone", GONE),
        )
    }


def _say_skipped(server: str, skipped: int, journal: Journal) -> None:
    if skipped:
        problem = Problem(
            Severity.WARNING,
            "redirect-not-written",
            f"{skipped:,} old addresses cannot be told to {server}.",
            f"They are listed at the end of its files in redirects/{server}; see whether anybody visits them.",
        )
        journal.follow_ups.add(problem)


def _copy(exports: Sequence[detection.Export], output: _Output, old: Media, new: Media) -> None:
    """Copy the file of a media record to where its new one says."""
    with several.file_of(exports, old).open() as stream, output.open(new.path) as target:
        shutil.copyfileobj(stream, target, 1 << 18)


class _Output:
    """Where writers put files: below `new/` in the move folder, or nowhere in a rehearsal."""

    def __init__(self, folder: MoveFolder, rehearse: bool) -> None:
        self.folder, self.rehearse = folder, rehearse
        self.written = 0  # bytes of what the new host takes

    def open(self, name: str) -> BinaryIO:
        """A new file of what the new host takes."""
        return cast(BinaryIO, _Counted(self.plain(f"new/{name}"), self))

    def plain(self, name: str) -> BinaryIO:
        """A new file of the move folder."""
        if self.rehearse:
            return cast(BinaryIO, _Nowhere())
        return self.folder.open(name)


class _Counted:
    """A file of what the new host takes, whose bytes are counted."""

    def __init__(self, file: BinaryIO, output: _Output) -> None:
        self.file, self.output = file, output
        self.close, self.flush = file.close, file.flush

    def write(self, data: bytes) -> int:
        """Write, and count."""
        self.output.written += len(data)
        return self.file.write(data)

    def __enter__(self) -> _Counted:
        return self

    def __exit__(self, *_exc: object) -> None:
        self.file.close()


class _Nowhere(io.BytesIO):
    """A file that forgets what is written to it."""

    def write(self, data: object) -> int:
        return len(cast(bytes, data))
