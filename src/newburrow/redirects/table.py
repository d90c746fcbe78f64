"""`redirects/addresses.csv`: the answer to every old address, and the source of all that servers get."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import BinaryIO

from newburrow.core import csvfile, url
from newburrow.core.problem import refusal
from newburrow.model import Where
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from newburrow.store.redirects.seen_keys import SeenKeys

HEADER = ("old", "new", "status", "why")
_STATUSES = {"200": UNCHANGED, "301": REDIRECTED, "308": REDIRECTED, "410": GONE}


def write(stream: BinaryIO, rows: Iterable[OldAddress], permanent: int = REDIRECTED) -> int:
    """Write answers as the table `addresses.csv` (old, new, status, why).

    `permanent` is the status of redirected addresses, 301 or 308. Gives the number of rows. Closes the
    stream.
    """
    statuses = {UNCHANGED: UNCHANGED, REDIRECTED: permanent, GONE: GONE}
    return csvfile.write(
        stream, HEADER, ((row.old, row.new, statuses[row.status], row.why) for row in rows)
    )


def read(path: Path) -> Iterator[OldAddress]:
    """The rows of `addresses.csv`, streamed in its order.

    Raises BurrowError, with the line, if an address or a status is not allowed or a column is missing.
    """
    return (row for _line, row in _numbered(path))


def check(path: Path) -> None:
    """Check a table that a person may have changed, in one pass.

    Raises BurrowError, with the line, if a row is wrong or an old address has two answers. Addresses
    seen so far are kept on disk.
    """
    with SeenKeys() as seen:
        for line, row in _numbered(path):
            first = seen.add(url.key(row.old), line)
            if first != line:
                raise refusal(
                    "two-answers",
                    f"{row.old} has two answers; the first is in line {first}.",
                    "Remove one of the two lines.",
                    Where(str(path), line),
                )


def _numbered(path: Path) -> Iterator[tuple[int, OldAddress]]:
    """The rows, each with its line."""
    with csvfile.opened(path) as stream:
        table = csvfile.CsvTable(stream)
        if tuple(table.names) != HEADER:
            raise refusal(
                "wrong-column",
                f"The columns are not {', '.join(HEADER)}.",
                "Write the table anew with `newburrow move FOLDER`.",
                Where(str(path), 1),
            )
        for row in table:
            yield table.line, _checked(row, Where(str(path), table.line))


def _checked(row: list[str], where: Where) -> OldAddress:
    if len(row) != len(HEADER) or row[2] not in _STATUSES:
        raise refusal(
            "wrong-row",
            "The row is not one of old address, new address, status (200, 301, 308 or 410) and why.",
            "Correct the row.",
            where,
        )
    if not url.key(row[0]) or (_STATUSES[row[2]] == REDIRECTED and not url.key(row[1])):
        raise refusal(
            "wrong-row",
            f"{row[0] if not url.key(row[0]) else row[1]!r} is not a web address.",
            "Correct the row.",
            where,
        )
    return OldAddress(row[0], row[1], _STATUSES[row[2]], row[3])
