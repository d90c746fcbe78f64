"""Views over the content store with a real column for each fact, so that anybody can open it and ask.

There is one for each type of record: `entries`, `comments`, `terms`, `media`, `authors`, ...
`docs/content-store.md` lists them, with example queries.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from typing import Any

from msgspec import NODEFAULT
from msgspec.structs import FieldInfo, fields

from newburrow.model.record import Body, Record, Where
from newburrow.model.record_types import RecordType, all_types, sql_table


def view_name(record_type: RecordType) -> str:
    """The name of the view of a type: its plural, with underscores."""
    if record_type.table == "media":
        return "media"
    return record_type.plural.replace(" ", "_")


def columns_of(record: type[Record]) -> dict[str, str]:
    """The columns of the view of a class, each with its expression in SQL."""
    columns = {"number": "seq"}
    for field in fields(record):
        columns |= _columns(field)
    return columns


def create_views(db: sqlite3.Connection) -> None:
    """Make the views; those of earlier versions are replaced."""
    for record_type in all_types():
        name = view_name(record_type)
        columns = columns_of(record_type.record)
        listed = ", ".join(
            f"{expression} AS {column}" for column, expression in columns.items()
        )
        db.execute(f"DROP VIEW IF EXISTS {name}")
        db.execute(
            f"CREATE VIEW {name} AS SELECT {listed} FROM {sql_table(record_type.record)}"
        )


def _columns(field: FieldInfo) -> Iterator[tuple[str, str]]:
    name = field.name
    if name == "key":
        yield name, "key"
    elif field.type is Body or _default(field) == Body():
        yield name, _extract(f"{name}.text", "")
        yield f"{name}_markup", _extract(f"{name}.markup", Body().markup)
    elif _default(field) == Where():
        yield f"{name}_file", _extract(f"{name}.file", "")
        yield f"{name}_line", _extract(f"{name}.line", 0)
    else:
        yield name, _extract(name, _default(field))


def _default(field: FieldInfo) -> Any:
    if field.default is not NODEFAULT:
        return field.default
    if field.default_factory is not NODEFAULT:
        return field.default_factory()
    return None


def _extract(path: str, default: object) -> str:
    """A member of the record; defaults are not written, so that they are filled in here."""
    found = f"json_extract(CAST(data AS TEXT), '$.{path}')"
    if default is None:
        return found
    return f"coalesce({found}, {_literal(default)})"


def _literal(default: object) -> str:
    if isinstance(default, bool | int | float):
        return str(float(default) if isinstance(default, float) else int(default))
    if isinstance(default, str):
        return "'" + default.replace("'", "''") + "'"
    if isinstance(default, dict):
        return "'{}'"
    return "'[]'"
