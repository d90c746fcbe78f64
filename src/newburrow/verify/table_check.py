"""Whether the tables that report on a move are as the move wrote them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import zip_longest
from pathlib import Path

from newburrow.core import csvfile
from newburrow.core.problem import BurrowError
from newburrow.verify.difference import Difference

_MOST = 20  # lines named; beyond that, something other was put in its place


def differences(
    path: Path, header: Sequence[str], expected: Iterable[Sequence[str]]
) -> Iterator[Difference]:
    """The rows of a table that are not as they were written. How cells are quoted and parted does not count."""
    number = 0
    try:
        rows = (tuple(cells.values()) for _line, cells in csvfile.read(path, header))
        for line, (before, after) in enumerate(zip_longest(expected, rows, fillvalue=()), 2):
            if tuple(map(_cell, before)) == tuple(map(_cell, after)):
                continue
            number += 1
            if number > _MOST:
                yield _of_table(path, "further rows", "as written", "others")
                return
            yield _of_table(path, f"row {line}", _shown(before), _shown(after))
    except (BurrowError, OSError) as error:
        if isinstance(error, BurrowError):
            reason = error.problem.message
        else:
            reason = str(error.strerror)
        yield _of_table(path, "reading", "a table", reason)


def _cell(cell: str) -> str:
    """A cell as it is compared: spreadsheets write line breaks in their own way."""
    return cell.replace("\r\n", "\n").replace("\r", "\n")


def _shown(row: Sequence[str]) -> str:
    if not row:
        return "no row"
    return " | ".join(row)[:120]


def _of_table(path: Path, fact: str, before: str, after: str) -> Difference:
    return Difference("table", path.name, "", fact, before, after)
