"""Files by the host that they lay on, and what became of them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

from msgspec import Struct

from newburrow.core import url
from newburrow.store.journal.rows import LedgerRow

MOST = 20  # hosts that are named; the others are one row
NO_HOST = "in the export, without an address"
OTHERS = "other hosts"


class FilesOfHost(Struct, frozen=True):
    """How many files of one host came to what."""

    host: str
    moved: int = 0
    merged: int = 0  # with one that has the same bytes
    stays: int = 0  # on that host, and is shown from there
    left_out: int = 0
    failed: int = 0  # missing in the export, or not taken


def by_host(rows: Iterable[LedgerRow]) -> list[FilesOfHost]:
    """The files of each host, those with the most files first; `rows` are those of the ledger for files."""
    counts: dict[str, Counter[str]] = {}
    for row in rows:
        host = url.site_key(row.old) or NO_HOST
        if host not in counts and len(counts) >= MOST:
            host = OTHERS
        state = row.fate.value.replace("-", "_")
        if state == "moved" and row.new == row.old:
            state = "stays"
        counts.setdefault(host, Counter())[state] += 1
    found = [FilesOfHost(host, **dict(number)) for host, number in counts.items()]
    return sorted(found, key=lambda files: (-counts[files.host].total(), files.host))
