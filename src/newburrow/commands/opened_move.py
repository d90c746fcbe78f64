"""A move whose folder and exports are opened, with everything read that decides it: ready to be planned."""

from __future__ import annotations

import logging
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from msgspec import Struct, to_builtins

from newburrow.convert import open_context
from newburrow.convert.context import Context
from newburrow.core import log_facts
from newburrow.core.progress import Listener
from newburrow.decide import checks, existing_content
from newburrow.decide.decisions import Decisions
from newburrow.decide.move_folder import ENTRIES, JOURNAL, STORE, MoveFolder
from newburrow.formats.exports import several
from newburrow.formats.exports.export import Export
from newburrow.hosts import loader as hosts
from newburrow.store.build import dialects_of, filled_store, opened_export, prepare
from newburrow.store.journal.journal import Journal

log = logging.getLogger(__name__)


class OpenedMove(Struct, frozen=True):
    """A move that can be planned."""

    context: Context
    exports: list[Export]
    templates: dict[str, str]  # the host's own


def _log(decisions: Decisions) -> None:
    """Log every decision that is not as it is without one."""
    for table in decisions.__struct_fields__:
        for name, value in _settings(to_builtins(getattr(decisions, table)), table):
            log_facts.info(log, "decided", setting=name, value=value)


def _settings(value: Any, name: str) -> Iterator[tuple[str, Any]]:
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from _settings(inner, f"{name}.{key}")
    elif value not in ("", None, [], ()):
        yield name, value


@contextmanager
def opened(
    folder: MoveFolder, listener: Listener, jobs: int, rehearse: bool = False
) -> Iterator[OpenedMove]:
    """Open what a move folder decides and reads. A rehearsal works on a copy elsewhere.

    Raises BurrowError, with nothing written, where a decision is wrong or an export cannot be read.
    """
    decisions = folder.decisions()
    request = folder.exports(decisions.old)
    prepare(request.paths, jobs, "newburrow.commands.move")
    name = folder.name_or_path(decisions.new.host)
    host, templates = hosts.load(name), hosts.templates(name)
    checks.check(folder, decisions, host)
    checks.check_exports(folder, decisions.old.paths)
    if not rehearse:
        read = [*request.paths, *(folder.path / path for path in decisions.new.holds)]
        folder.check_apart(read)
    _log(decisions)
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
            yield OpenedMove(context, exports, templates)


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
    existing_content.learn(existing, journal, opened_export(listener))
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
