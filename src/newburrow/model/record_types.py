"""All types of records, each said once: its table, its order, its references, how it is counted.

The content store, the marking of keys, merging, the ledger and the accounting read this table. To add
a type of record, write its class and add one line to `_TYPES`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from newburrow.model.author import Author
from newburrow.model.comment import Comment
from newburrow.model.course import Question
from newburrow.model.entry import Entry
from newburrow.model.media import Media
from newburrow.model.menu import MenuItem
from newburrow.model.record import Record
from newburrow.model.revision import Revision
from newburrow.model.site import Site
from newburrow.model.term import Term

R = TypeVar("R", bound=Record)


class RecordType(Struct, frozen=True):
    """What the rest of the program has to know of one type of record."""

    record: type[Record]
    plural: str  # for messages
    # fields that hold keys; `a.b` is field b of the structs in a
    references: tuple[str, ...] = ()
    columns: tuple[str, ...] = ()  # fields that the store keeps in a column of their own
    paths: tuple[str, ...] = ()  # fields that hold a path in the export
    addresses: tuple[
        str, ...
    ] = ()  # fields that hold an address, several, or named texts that can be one
    texts: tuple[
        str, ...
    ] = ()  # fields with texts besides bodies that a host may take for HTML
    counted_as: str = ""  # what it is counted as, unless one of its fields says that
    counted_by: str = ""  # the field that says what it is counted as
    names: tuple[str, ...] = ("title", "name", "author_name", "label")  # fields to show it by
    repeats: bool = False  # whether each part of an export says it again, which is not a double
    # whether the conversion decides the fate of each; else it is not moved
    planned: bool = False
    ledger_rank: int = 100  # lower ones come first in the ledger and in the accounting

    @property
    def table(self) -> str:
        """The name of the type: in the content store, in the ledger, in problems."""
        return self.record.table


_TYPES = (
    RecordType(
        Site,
        "sites",
        references=("front_page",),
        addresses=("address",),
        texts=("description",),
        counted_as="site",
        repeats=True,
        ledger_rank=0,
        planned=True,
    ),
    RecordType(
        Author,
        "authors",
        addresses=("address",),
        texts=("about",),
        counted_as="author",
        repeats=True,
        ledger_rank=3,
        planned=True,
    ),
    RecordType(
        Term,
        "terms",
        references=("parent",),
        texts=("description",),
        counted_by="vocabulary",
        repeats=True,
        ledger_rank=4,
        planned=True,
    ),
    RecordType(
        Media,
        "files",
        references=("entry",),
        paths=("path",),
        addresses=("address", "addresses"),
        texts=("caption", "alternative_text"),
        counted_as="media",
        ledger_rank=5,
        planned=True,
    ),
    RecordType(
        Entry,
        "entries",
        references=(
            "authors",
            "terms",
            "enclosures",
            "lead_picture",
            "parent",
            "quiz.sections.bank",
        ),
        addresses=("permalink", "addresses", "lead_picture", "feeds", "fields"),
        texts=("fields",),
        counted_by="kind",
        ledger_rank=1,
        planned=True,
    ),
    RecordType(
        Comment,
        "comments",
        references=("entry", "parent"),
        columns=("entry",),
        addresses=("address",),
        counted_by="kind",
        ledger_rank=2,
        planned=True,
    ),
    RecordType(
        MenuItem,
        "menu items",
        references=("target", "parent"),
        addresses=("target",),
        counted_as="menu-item",
        ledger_rank=6,
        planned=True,
    ),
    RecordType(
        Revision,
        "revisions",
        references=("entry", "author"),
        columns=("entry",),
        counted_as="revision",
        ledger_rank=7,
        planned=True,
    ),
    RecordType(
        Question,
        "questions",
        references=("entry",),
        columns=("entry",),
        counted_as="question",
        ledger_rank=2,
        planned=True,
    ),
)

_by_class: dict[type[Record], RecordType] = {}
_by_table: dict[str, RecordType] = {}


def register(record_type: RecordType) -> None:
    """Make a type of record known to the whole program, after all others."""
    _by_class[record_type.record] = record_type
    _by_table[record_type.table] = record_type


def all_types() -> Iterator[RecordType]:
    """All types, in the order in which the store and the ledger have them."""
    return iter(tuple(_by_class.values()))


def type_of(record: type[Record]) -> RecordType:
    """The record type of a class of records."""
    return _by_class[record]


def type_in(table: str) -> RecordType:
    """The type of the records in a table of the store."""
    return _by_table[table]


def table_of(record: type[Record]) -> str:
    """The table of the store that holds a class of records."""
    return record.table


def sql_table(record: type[Record]) -> str:
    """The name in SQL of the table that holds a class of records."""
    return f"record_{record.table}"


FILE_KIND = "file"  # stands for a table where files are told that are listed and not read


def ledger_order() -> list[str]:
    """The tables of all types, in the order in which the ledger and the accounting have them; files come last."""
    ordered = sorted(all_types(), key=lambda record_type: record_type.ledger_rank)
    return [*(record_type.table for record_type in ordered), FILE_KIND]


def kind_of(record: Record) -> str:
    """The kind under which a record is counted: `post`, `tag`, `pingback`, `author`, ..."""
    record_type = _by_class[type(record)]
    if record_type.counted_by:
        return str(getattr(record, record_type.counted_by))
    return record_type.counted_as


def name_of(record: Record) -> str:
    """The name by which a person knows a record, such as its title; empty if it has none."""
    for field in _by_class[type(record)].names:
        if name := getattr(record, field, ""):
            return str(name)
    return ""


def with_references(record: R, new_key: Callable[[str], str], path_mark: str = "") -> R:
    """The record with `new_key` applied to its references, and `path_mark` put before its paths.

    Its own key stays.
    """
    record_type = _by_class[type(record)]
    changed: dict[str, Any] = {}
    for reference in record_type.references:
        field, _dot, inner = reference.partition(".")
        changed[field] = _rekeyed(getattr(record, field), inner, new_key)
    for field in record_type.paths:
        if path := getattr(record, field):
            changed[field] = path_mark + path
    return replace(record, **changed)


def _rekeyed(value: Any, inner: str, new_key: Callable[[str], str]) -> Any:
    if value is None:
        return None
    if isinstance(value, tuple):
        return tuple(_rekeyed(part, inner, new_key) for part in value)
    if inner:
        field, _dot, further = inner.partition(".")
        return replace(value, **{field: _rekeyed(getattr(value, field), further, new_key)})
    return new_key(value)


for _type in _TYPES:
    register(_type)
