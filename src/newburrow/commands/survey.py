"""Surveying exports: a store is filled beside the disk's other business, looked through, and thrown away."""

from __future__ import annotations

import tempfile
from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from newburrow.assess.survey import survey
from newburrow.assess.survey_facts import SourceFacts, Survey
from newburrow.core import workers
from newburrow.core.progress import Event, Listener, nobody
from newburrow.formats.exports import several
from newburrow.formats.exports.export import Export, ExportRequest
from newburrow.model import Site
from newburrow.model.keys import mark_of, scope_of
from newburrow.store.build import dialects_of, filled_store, prepare
from newburrow.store.content_store import Store


def survey_paths(
    request: ExportRequest,
    listener: Listener = nobody,
    jobs: int | None = None,
) -> Survey:
    """Count and examine exports; nothing stays on disk.

    `jobs` is the number of processes, by default as many as may really run. `listener` is called with
    progress events. Raises BurrowError if a path cannot be read or no reader knows it.
    """
    jobs = jobs or workers.available()
    prepare(request.paths, jobs, __name__)
    exports = several.examine_all(request)

    def progress(done: int, total: int) -> None:
        if done % 50 == 0 or done == total:
            listener(Event("Examining", done, total))

    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as name,
        filled_store(
            Path(name) / "content.sqlite", exports, listener, jobs, is_kept=False
        ) as store,
    ):
        return survey(
            store,
            _sources(exports, store),
            dialects_of(exports),
            store.path.parent,
            progress,
            jobs,
        )


def _sources(exports: Sequence[Export], store: Store) -> list[SourceFacts]:
    """What each of the paths turned out to be, with what wrote it and when, where it says so."""
    sites = {scope_of(site.key): site for site in store.all(Site)}
    found = []
    for number, export in enumerate(exports, 1):
        site = sites.get(mark_of(number)) or sites.get("", Site(key="site"))
        path = str(export.source.path)
        parts = Counter(
            (
                piece.format,
                piece.dialect.name,
                piece.encoding.name if piece.encoding else "utf-8",
            )
            for piece in export.pieces
        )
        found += [
            SourceFacts(
                path,
                format_,
                dialect,
                many,
                encoding,
                site.generator,
                site.written,
                _is_newest(export, exports),
            )
            for (format_, dialect, encoding), many in parts.items()
        ]
        found += [
            SourceFacts(str(beside.source.path), "files", "", len(beside.source.parts))
            for beside in export.beside
        ]
    return found


def _is_newest(export: Export, exports: Sequence[Export]) -> bool:
    """Whether an export is the newest of several of one site, as after more than one download."""
    same = [other for other in exports if other.seen.first == export.seen.first]
    dates = [other.seen.newest or other.seen.written for other in same]
    newest = max(filter(None, dates), default=None)
    own = export.seen.newest or export.seen.written
    return len(same) > 1 and newest is not None and own == newest
