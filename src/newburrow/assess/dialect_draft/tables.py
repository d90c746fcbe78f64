"""The tables of an export that no dialect describes: lists of records, and what was seen in their fields."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from newburrow.assess.dialect_draft.observations import Observed


class Table:
    """One list of records: where it is, and what was seen in each field, by its selector."""

    def __init__(self, name: str, format_: str, file: str = "", each: str = "") -> None:
        self.name, self.format, self.file, self.each = name, format_, file, each
        self.count = 0
        self.columns: dict[str, Observed] = {}
        self.inner: dict[str, Table] = {}  # lists of records within a record, by their selector

    def note(self, selector: str, value: str, many: bool = False) -> None:
        """One value of a field."""
        seen = self.columns.setdefault(selector, Observed())
        seen.note(value)
        seen.many = seen.many or many

    def within(self, selector: str, name: str) -> Table:
        """The table of the records that are in a field."""
        return self.inner.setdefault(selector, Table(name, self.format, each=selector))


class ExportTables:
    """All tables of an export, the facts that are outside of them, and the namespaces of its XML."""

    def __init__(self) -> None:
        self.tables: dict[tuple[str, str], Table] = {}
        self.site: dict[str, Table] = {}  # by file
        self.prefixes: dict[str, str] = {}  # namespace -> prefix

    def table(self, name: str, format_: str, file: str, each: str) -> Table:
        """The table at a place."""
        return self.tables.setdefault((file, each), Table(name, format_, file, each))

    def fact(self, format_: str, file: str, selector: str, value: str, each: str) -> None:
        """Note a fact that is outside of all lists."""
        self.site.setdefault(file, Table("site", format_, file, each)).note(selector, value)


def named(tables: Iterable[Table]) -> Iterator[Table]:
    """The tables, each followed by those within it."""
    for table in tables:
        yield table
        yield from named(table.inner.values())
