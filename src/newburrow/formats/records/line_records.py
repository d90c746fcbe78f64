"""Plain records that are lines: JSON Lines, and CSV (RFC 4180)."""

from __future__ import annotations

import csv
import io
import json
from collections import Counter
from collections.abc import Iterator
from typing import BinaryIO

from newburrow.core.problem import BurrowError, refusal
from newburrow.formats.base import Input
from newburrow.formats.equal_names import numbered
from newburrow.formats.json_stream import decoded, not_json
from newburrow.formats.records.base import RecordFormat
from newburrow.formats.records.record_facts import CompiledMap
from newburrow.formats.records.record_view import JsonView, RecordView
from newburrow.intake.head import Head
from newburrow.model import Where

_MARK = b"\xef\xbb\xbf"
_LONGEST = 1 << 28  # characters of one cell
_DELIMITERS = ",;\t|"


class JsonLines(RecordFormat):
    """One JSON object a line."""

    name = "jsonlines"
    title = "JSON Lines"

    def recognise(self, head: Head) -> bool:
        """Whether the first line is a JSON object of its own, and another follows."""
        first, _end, remainder = head.start.removeprefix(_MARK).lstrip().partition(b"\n")
        if not first.startswith(b"{"):
            return False
        try:
            is_object = isinstance(decoded(first.decode("utf-8")), dict)
        except (ValueError, RecursionError):
            return False  # longer than what was looked at, or JSON over several lines
        return is_object and (
            remainder.lstrip().startswith(b"{") or head.name.endswith((".jsonl", ".ndjson"))
        )

    def views(
        self, source: Input, maps: list[CompiledMap], _unread: Counter[str]
    ) -> Iterator[tuple[CompiledMap, RecordView]]:
        """Each line is a record of every map that is for the file."""
        for number, value in objects(source.stream, source.label):
            for rules in maps:
                yield rules, JsonView(value, number)


def objects(stream: BinaryIO, label: str) -> Iterator[tuple[int, object]]:
    """Each value of JSON Lines with its line, counted from 1.

    Empty lines are skipped. Raises BurrowError, with line and column, if a line is not JSON (RFC 8259).
    """
    for number, line in enumerate(stream, 1):
        text = line.removeprefix(_MARK if number == 1 else b"").strip()
        if not text:
            continue
        try:
            yield number, decoded(text.decode("utf-8"))
        except json.JSONDecodeError as error:
            raise not_json(
                label, error.msg[0].lower() + error.msg[1:], number, error.colno
            ) from None
        except UnicodeDecodeError as error:
            raise not_json(
                label, f"byte 0x{text[error.start]:02X} is not UTF-8", number, error.start + 1
            ) from None
        except (ValueError, RecursionError) as error:
            raise not_json(label, str(error), number) from None


class Csv(RecordFormat):
    """A table whose first row names its columns."""

    name = "csv"
    title = "CSV (RFC 4180)"

    def recognise(self, head: Head) -> bool:
        """Whether the first line is a row of names; a file that calls itself .csv or .tsv must be one."""
        is_named = head.name.lower().endswith((".csv", ".tsv", ".txt"))
        return is_named and bool(columns(head))

    def views(
        self, source: Input, maps: list[CompiledMap], _unread: Counter[str]
    ) -> Iterator[tuple[CompiledMap, RecordView]]:
        """Each row is a record of every map that is for the file."""
        for number, row in rows(source.stream, source.label):
            for rules in maps:
                yield rules, JsonView(row, number)


def rows(stream: BinaryIO, label: str) -> Iterator[tuple[int, dict[str, object]]]:
    """Each row of a CSV table (RFC 4180) as column name -> cell, with its line, counted from 1.

    Of columns with one name the last keeps it (`equal_names`).
    The separator is found by the first line. Cells beyond the header are kept under one name of their own;
    empty rows are skipped. Raises BurrowError, with the line, if the text is not CSV in UTF-8.
    """
    csv.field_size_limit(_LONGEST)
    text = io.TextIOWrapper(stream, "utf-8-sig", newline="")
    try:
        first = text.readline()
        names = numbered(next(csv.reader([first], delimiter=_delimiter(first)), []))
        found = csv.reader(text, delimiter=_delimiter(first))
        line = 2
        for cells in found:
            row: dict[str, object] = dict(zip(names, cells, strict=False))
            if len(cells) > len(names):
                row["(further cells)"] = cells[len(names) :]
            if any(cells):
                yield line, row
            line = found.line_num + 2
    except (csv.Error, UnicodeDecodeError) as error:
        raise _not_csv(label, error) from None
    finally:
        text.detach()  # the stream belongs to the caller


def columns(head: Head) -> list[str]:
    """The names in the first row of a table; none where the beginning is no table."""
    first = head.start.removeprefix(_MARK).partition(b"\n")[0]
    try:
        text = first.decode("utf-8").strip()
    except UnicodeDecodeError:
        return []
    if not text or text[0] in "<{[" or "\0" in text:
        return []
    try:
        names = next(csv.reader([text], delimiter=_delimiter(text)), [])
    except csv.Error:
        return []
    if len(names) > 1 and all(names):
        return numbered(names)
    return []


def _delimiter(first: str) -> str:
    return max(_DELIMITERS, key=first.count)


def _not_csv(label: str, error: Exception) -> BurrowError:
    if isinstance(error, UnicodeDecodeError):
        fault = "a byte is not UTF-8"
    else:
        fault = str(error)
    return refusal(
        "not-well-formed",
        f"The table cannot be read: {fault}.",
        "Save it again as CSV in UTF-8 and hand that in.",
        Where(label),
    )
