"""What all records have in common, and the places in an export that they came from."""

from __future__ import annotations

from typing import ClassVar

from msgspec import Struct

Extra = dict[str, list[str]]  # name in the export -> its values, kept as text


class Where(Struct, frozen=True, omit_defaults=True):
    """A place in an export, precise enough for a person to find it."""

    file: str = ""
    line: int = 0  # counted from 1; 0 is unknown
    column: int = 0  # counted from 1; 0 is unknown

    def __str__(self) -> str:
        parts = [self.file or "?"]
        if self.line:
            parts.append(f"line {self.line}")
        if self.column:
            parts.append(f"column {self.column}")
        return ", ".join(parts)


class Body(Struct, frozen=True, omit_defaults=True):
    """A text with the name of its markup, as registered in `newburrow.markups`."""

    text: str = ""
    markup: str = "html"
    base: str = ""  # address that its relative links start from; empty: the page it is on


class Record(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """The base of all records: a key, a place in the export, and what the model has no place for.

    A key names one object among all of its type in one move. References (`Entry.parent`,
    `Comment.entry`, ...) hold keys. `table` names the type: in the store, in the ledger, in problems.
    """

    table: ClassVar[str]

    key: str
    extra: Extra = {}
    source: Where = Where()
