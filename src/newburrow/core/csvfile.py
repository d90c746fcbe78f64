"""CSV as all our tables are written: RFC 4180, UTF-8, a header line, and safe to open in a spreadsheet."""

from __future__ import annotations

import codecs
import csv
import io
import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO, TextIO

from newburrow.core.problem import refusal
from newburrow.core.suggestions import suggest
from newburrow.model.record import Where

# A spreadsheet reads a cell that begins like this as a formula; an apostrophe before it makes it text.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_DELIMITERS = ",;\t"
_LONGEST_SHOWN = 200  # bytes of a line that is shown
_SEPARATOR = re.compile(r"sep=(.)", re.IGNORECASE)
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
    with writing(stream, header) as add:
        for count, row in enumerate(rows, 1):  # noqa: B007
            add(row)
    return count


@contextmanager
def writing(
    stream: BinaryIO, header: Sequence[str]
) -> Iterator[Callable[[Sequence[object]], None]]:
    """What adds a row to a table, as `write` has it; the stream is closed at the end of the `with`."""
    with io.TextIOWrapper(stream, encoding="utf-8", errors="replace", newline="") as text:
        writer = csv.writer(_LineFeed(text))
        writer.writerow(header)
        yield lambda row: writer.writerow(_guarded(row))


def opened(path: Path, errors: str = "strict") -> TextIO:
    """A table as a text stream, in the encoding in which spreadsheets save: UTF-8, or UTF-16 as "Unicode text".

    Reading it raises UnicodeDecodeError where it is in another one, unless `errors` says otherwise.
    """
    with path.open("rb") as stream:
        start = stream.read(4)
    encoding = "utf-8-sig"
    if start.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        encoding = "utf-16"
    elif start[1:2] == b"\0":
        encoding = "utf-16-le"
    return path.open(encoding=encoding, errors=errors, newline="")


def read(path: Path, header: Sequence[str]) -> Iterator[tuple[int, dict[str, str]]]:
    """The rows of a table: (line, column name -> cell), with the guard of cells removed. Read as a stream.

    Columns can be in any order. Raises BurrowError, with the line, if a column of `header` is missing, one is
    unknown, or the file is not CSV in UTF-8 or UTF-16.
    """
    try:
        with opened(path) as stream:
            yield from rows(stream, str(path), header)
    except UnicodeDecodeError:
        line, words = _first_wrong_line(path)
        raise refusal(
            "unreadable",
            "The table is neither in UTF-8 nor in UTF-16.",
            "Save it as CSV (UTF-8), or as Unicode text.",
            Where(str(path), line),
            words,
        ) from None


def _first_wrong_line(path: Path) -> tuple[int, str]:
    """The number and the text of the first line that is not in UTF-8, with a mark for what cannot be read."""
    with path.open("rb") as stream:
        for number, line in enumerate(stream, 1):
            try:
                line.decode("utf-8")
            except UnicodeDecodeError:
                return number, line[:_LONGEST_SHOWN].decode("utf-8", "replace").rstrip()
    return 0, ""


class CsvTable:
    """A table at its first row after the names of its columns."""

    def __init__(self, stream: TextIO) -> None:
        """`stream` must be at its beginning, without a byte order mark.

        The separator is the one that the first line names, as some spreadsheets write it (`sep=;`), else the
        sign among comma, semicolon and tabulator that stands there most often.
        """
        first = stream.readline()
        self._before = 0  # lines before those that the reader counts
        named = _SEPARATOR.fullmatch(first.rstrip("\r\n"))
        if named:
            first = stream.readline()
            self._before = 1
        delimiter = named[1] if named else max(_DELIMITERS, key=first.count)
        self.names = [
            name.strip() for name in next(csv.reader([first], delimiter=delimiter), [])
        ]
        self._reader = csv.reader(stream, delimiter=delimiter, strict=False)

    def __iter__(self) -> Iterator[list[str]]:
        """The rows as they stand, empty ones too. Raises csv.Error."""
        return self._reader

    @property
    def line(self) -> int:
        """The number of the last line read, from 1."""
        return self._before + 1 + self._reader.line_num


def columns(start: str) -> list[str]:
    """The names of the columns, in small letters, by the beginning of a table."""
    return [name.lower() for name in CsvTable(io.StringIO(start.lstrip(), newline="")).names]


def columns_of(path: Path) -> list[str]:
    """The names of the columns of a table on disk, in small letters."""
    with opened(path, "replace") as stream:
        return columns(stream.readline())


def rows(
    stream: TextIO, file: str, header: Sequence[str]
) -> Iterator[tuple[int, dict[str, str]]]:
    """The rows of a table that is read as a stream: (line, column name -> cell).

    `file` is named in messages. Raises BurrowError as `read` does.
    """
    table = CsvTable(stream)
    for name in table.names:
        if name and name not in header:
            raise refusal(
                "wrong-column",
                f"There is no column {name!r}.",
                suggest(name, header, "The columns are"),
                Where(file, table.line),
            )
    missing = [name for name in header if name not in table.names]
    if missing:
        raise refusal(
            "missing-column",
            f"The column {missing[0]!r} is missing.",
            f"The columns are: {', '.join(header)}.",
            Where(file, table.line),
        )
    try:
        for row in table:
            if any(cell.strip() for cell in row):
                cells = dict(zip(table.names, row, strict=False))
                yield table.line, {name: _bare(cells.get(name, "")) for name in header}
    except csv.Error as error:
        raise refusal(
            "csv",
            f"This is not valid CSV: {error}.",
            "Save the table as CSV (UTF-8) again.",
            Where(file, table.line),
        ) from None
