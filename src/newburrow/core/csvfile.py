"""CSV as all our tables are written: RFC 4180, UTF-8, a header line, and safe to open in a spreadsheet."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from typing import BinaryIO, TextIO

from newburrow.core.problem import refusal
from newburrow.core.suggestions import suggest
from newburrow.model.record import Where

# A spreadsheet reads a cell that begins like this as a formula; an apostrophe before it makes it text.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_is_plain = frozenset(_FORMULA).isdisjoint


def _guarded(row: Sequence[object]) -> list[str]:
    cells = list(map(str, row))
    # most need none; checking each cell would take three times as long
    if _is_plain([cell[:1] for cell in cells]):
        return cells
    return ["'" + cell if cell.startswith(_FORMULA) else cell for cell in cells]


def _bare(cell: str) -> str:
    if cell.startswith("'") and cell[1:].startswith(_FORMULA):
        return cell[1:]
    return cell


class _LineFeed:
    """A text file for the library's writer, with lines that end in a line feed alone.

    Told so itself, the writer would leave a carriage return in a cell unquoted.
    """

    def __init__(self, text: TextIO) -> None:
        self._write = text.write

    def write(self, line: str) -> int:
        """Write one row."""
        return self._write(line[:-2] + "\n")


def write(stream: BinaryIO, header: Sequence[str], rows: Iterable[Sequence[object]]) -> int:
    """Write a table as CSV (RFC 4180, UTF-8, lines ending in LF) and close the stream.

    Each row has one cell for each column of `header`. A cell that a
    spreadsheet would take for a formula gets a guard. Gives the number of rows.
    """
    count = 0
    with io.TextIOWrapper(stream, encoding="utf-8", errors="replace", newline="") as text:
        writer = csv.writer(_LineFeed(text))
        writer.writerow(header)
        for count, row in enumerate(rows, 1):  # noqa: B007
            writer.writerow(_guarded(row))
    return count


def read(text: str, file: str, header: Sequence[str]) -> Iterator[tuple[int, dict[str, str]]]:
    """The rows of a whole table: (line, column name -> cell), with the guard of cells removed.

    `file` is named in messages. Columns can be in any order; the separator is found by the first line.
    Raises BurrowError, with the line, if a column of `header` is missing, one is unknown, or the text is
    not CSV.
    """
    return rows(io.StringIO(text.removeprefix("\ufeff"), newline=""), file, header)


def rows(
    stream: TextIO, file: str, header: Sequence[str]
) -> Iterator[tuple[int, dict[str, str]]]:
    """The rows of a table that is read as a stream: (line, column name -> cell).

    The stream must be seekable and must not begin with a byte order mark. The separator is a comma, or a
    semicolon if the first line has only those. Raises BurrowError as `read` does.
    """
    # A spreadsheet may save with semicolons.
    first = stream.readline()
    if ";" in first and "," not in first:
        delimiter = ";"
    else:
        delimiter = ","
    stream.seek(0)
    reader = csv.reader(stream, delimiter=delimiter, strict=False)
    try:
        names = [name.strip() for name in next(reader, [])]
        for name in names:
            if name and name not in header:
                raise refusal(
                    "wrong-column",
                    f"There is no column {name!r}.",
                    suggest(name, header, "The columns are"),
                    Where(file, 1),
                )
        missing = [name for name in header if name not in names]
        if missing:
            raise refusal(
                "missing-column",
                f"The column {missing[0]!r} is missing.",
                f"The columns are: {', '.join(header)}.",
                Where(file, 1),
            )
        for row in reader:
            if any(cell.strip() for cell in row):
                cells = dict(zip(names, row, strict=False))
                yield reader.line_num, {name: _bare(cells.get(name, "")) for name in header}
    except csv.Error as error:
        raise refusal(
            "csv",
            f"This is not valid CSV: {error}.",
            "Save the table as CSV (UTF-8) again.",
            Where(file, reader.line_num),
        ) from None
