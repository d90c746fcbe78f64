"""Surveying exports: a store is filled beside the disk's other business, looked through, and thrown away."""

from __future__ import annotations

import tempfile
from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from newburrow import gathering
from newburrow.assess.survey import SourceFacts, Survey, survey
from newburrow.events import Event, Listener, nobody
from newburrow.filling import dialects_of, filled_store
from newburrow.journal import Journal


def survey_paths(paths: Sequence[Path], dialect: str = "", listener: Listener = nobody) -> Survey:
    """Count and examine what lies at these paths. Writes nothing that stays."""
    exports = gathering.examine_all(paths, dialect)
    parts = Counter(
        (str(export.source.path), piece.format, piece.dialect.name) for export in exports for piece in export.pieces
    )
    sources = [SourceFacts(*facts, number) for facts, number in parts.items()]

    def progress(done: int, total: int) -> None:
        if done % 50 == 0 or done == total:
            listener(Event("Examining", done, total))

    with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
        folder = Path(name)
        with (
            filled_store(folder / "content.sqlite", exports, listener) as store,
            Journal(folder / "journal") as journal,
        ):
            return survey(store, journal, sources, dialects_of(exports), progress)
