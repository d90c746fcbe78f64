"""`redirects/addresses.csv`: the answer to every old address, and the source of all that servers get."""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator
from pathlib import Path
from typing import BinaryIO, TextIO

from newburrow.core import csvfile, url
from newburrow.core.problem import BurrowError, refusal
from newburrow.model import Where
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress

HEADER = ("old", "new", "status", "why")
_STATUSES = {
    "200": UNCHANGED,
    "301": REDIRECTED,
    "302": REDIRECTED,
    "307": REDIRECTED,
    "308": REDIRECTED,
    "410": GONE,
}


def write(stream: BinaryIO, rows: Iterable[OldAddress], permanent: int = REDIRECTED) -> int:
    """Write answers as the table `addresses.csv` (old, new, status, why).

    `permanent` is the status of redirected addresses. Gives the number of rows. Closes the
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
    with csvfile.opened(path) as stream:
        yield from _rows(_table(stream, path), path)


def check(path: Path, twins: Container[str]) -> None:
    """Check that no old address has two answers in a table that a person may have changed.

    `twins` are keys, without a slash at their end, that more than one address may have. Raises BurrowError with both
    lines.
    """
    lines: dict[str, int] = {}
    with csvfile.opened(path) as stream:
        table = _table(stream, path)
        for row in _rows(table, path):
            if row.key.rstrip("/") not in twins:
                continue
            line = table.line
            first = lines.setdefault(row.key, line)
            if first != line:
                raise refusal(
                    "two-answers",
                    f"{row.old} has two answers, in line {first} and in line {line}.",
                    "Remove one of the two lines.",
                    Where(str(path), line),
                )


def _table(stream: TextIO, path: Path) -> csvfile.CsvTable:
    """The table at its first row; its columns must be those of HEADER."""
    table = csvfile.CsvTable(stream)
    if tuple(table.names) != HEADER:
        raise refusal(
            "wrong-column",
            f"The columns are not {', '.join(HEADER)}.",
            "Write the table anew with `newburrow move FOLDER`.",
            Where(str(path), 1),
        )
    return table


def _rows(table: csvfile.CsvTable, path: Path) -> Iterator[OldAddress]:
    """The rows of a table, which knows the line."""
    for cells in table:
        if len(cells) == len(HEADER) and (status := _STATUSES.get(cells[2])):
            row = OldAddress.of(cells[0], cells[1], status, cells[3])
            if row.key and (row.new_key or status != REDIRECTED):
                yield row
                continue
        raise _wrong(cells, Where(str(path), table.line))


def _wrong(cells: list[str], where: Where) -> BurrowError:
    message = "The row is not one of old address, new address, status (200, 301, 302, 307, 308 or 410) and why."
    if len(cells) == len(HEADER) and cells[2] in _STATUSES:
        message = f"{cells[1] if url.key(cells[0]) else cells[0]!r} is not a web address."
    return refusal("wrong-row", message, "Correct the row.", where)
