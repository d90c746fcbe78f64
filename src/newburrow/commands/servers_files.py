"""The files of servers of a finished move, held against its table of addresses, beside other work where that pays."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from newburrow.commands.finished_move import FinishedMove
from newburrow.core.workers import Pool
from newburrow.hosts.archives import NewArchives
from newburrow.verify import redirect_files
from newburrow.verify.difference import Difference

_SHARED = 2000  # entries; with fewer, starting another process does not pay


@contextmanager
def differences(move: FinishedMove, jobs: int) -> Iterator[Callable[[], list[Difference]]]:
    """What gives the differences of the servers' files; of a large move they are found beside other work."""
    facts = (move.path, move.decisions.redirects, NewArchives(move.host, move.new_site))
    if jobs < 2 or move.journal.handed.count() < _SHARED:
        yield lambda: redirect_files.differences(*facts)
        return
    with Pool(1) as pool:
        yield pool.start(redirect_files.differences, *facts).result
