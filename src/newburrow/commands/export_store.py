"""An export as a store that is thrown away."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path

from newburrow.core.progress import Listener
from newburrow.formats.exports import several
from newburrow.formats.exports.export import ExportRequest
from newburrow.store.build import filled_store
from newburrow.store.content_store import Store


def opened_export(listener: Listener) -> Callable[[Path], AbstractContextManager[Store]]:
    """What reads the export at a path. It raises BurrowError where that cannot be read."""
    return lambda path: _opened(path, listener)


@contextmanager
def _opened(path: Path, listener: Listener) -> Iterator[Store]:
    exports = several.examine_all(ExportRequest([path]))
    with (
        tempfile.TemporaryDirectory(prefix="newburrow-") as name,
        filled_store(Path(name) / "content.sqlite", exports, listener, is_kept=False) as store,
    ):
        yield store
