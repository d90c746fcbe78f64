"""What a person changed in `entries.csv`: bulk edits are spreadsheet edits.

Only a cell that says something else than the export is a change; a row that nobody touched changes nothing.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import datetime

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import local_dates
from newburrow.core.dates import iso, zone_named
from newburrow.core.problem import refusal
from newburrow.core.suggestions import suggest
from newburrow.decide.conditions import author_named
from newburrow.model.author import Author
from newburrow.model.entry import ENTRY_STATES, Entry
from newburrow.model.lookup import RecordLookup
from newburrow.model.record import Where
from newburrow.store.journal.edits import EditReader
from newburrow.store.journal.edits import EditTable as RowStore

COLUMNS = (
    "entry",
    "action",
    "kind",
    "status",
    "date",
    "slug",
    "title",
    "author",
    "old_address",
)
ACTIONS = ("move", "leave")


class EditRow(Struct, frozen=True):
    """One row, as it is in the journal."""

    cells: dict[str, str]
    line: int


def cells(entry: Entry, names: dict[str, str]) -> tuple[str, ...]:
    """An entry as a row of `entries.csv`, one cell for each column, with the action `move`.

    `names` has the name of each author by key. The date is in RFC 3339; what an entry lacks is an empty
    cell. Of several authors only the first is named.
    """
    return (
        entry.key,
        "move",
        entry.kind,
        entry.status,
        iso(entry.published),
        entry.slug,
        entry.title,
        names.get(entry.authors[0], entry.authors[0]) if entry.authors else "",
        entry.permalink,
    )


class EntryEdits:
    """The rows of the table. They wait in the journal, since they grow with the export."""

    def __init__(
        self, store: RecordLookup, zone: str, rows: EditReader, kinds: Sequence[str], file: str
    ) -> None:
        """`zone` is that of the site, `kinds` are those that an entry can become.

        `file` is what messages call the table.
        """
        self.store, self.rows, self.kinds, self.file = store, rows, kinds, file
        self.names = {author.key: author.name for author in store.all(Author)}
        self.zone = zone_named(zone)

    def learn(self, rows: Iterator[tuple[int, dict[str, str]]], edits: RowStore) -> None:
        """Keep all rows in the journal. Raises BurrowError, with the line, at the first cell with a wrong value."""
        for line, row in rows:
            self._check(row, Where(self.file, line))
            edits.add(row["entry"], line, row)

    def _check(self, row: dict[str, str], where: Where) -> None:
        for column, known in (
            ("action", ACTIONS),
            ("kind", self.kinds),
            ("status", ENTRY_STATES),
        ):
            word = row[column].strip()
            if word and word not in known:
                raise refusal(
                    "wrong-value",
                    f"There is no {column} {word!r}.",
                    suggest(word, known, "The allowed values are"),
                    where,
                )
        if row["date"].strip() and self._date(row["date"]) is None:
            advice = "Write it as 2024-05-06 or 2024-05-06T14:30:00+01:00."
            fault = "is not a date"
            if local_dates.is_ambiguous(row["date"]):
                fault = "is a date that can be read in two ways"
            raise refusal("wrong-value", f"{row['date']!r} {fault}.", advice, where)
        author = row["author"].strip()
        named = not author or author in self.names or author in self.names.values()
        if not named and author_named(author, self.store) is None:
            advice = suggest(author, self.names.values(), "The authors are")
            raise refusal("wrong-value", f"The export has no author {author!r}.", advice, where)

    def _date(self, text: str) -> datetime | None:
        return local_dates.parse(text, self.zone)

    def leaves(self, entry: Entry) -> bool:
        """Whether the table says that an entry is left out."""
        row = self.rows.get(entry.key)
        return row is not None and row["action"].strip() == "leave"

    def changed(self, entry: Entry, now: Entry) -> Entry:
        """The entry as the table of entries makes it.

        `entry` is as it was read, `now` as the rules have made it: only a cell that differs from the entry as
        it was drafted is applied, on top of the rules.
        """
        row = self.rows.get(entry.key)
        if row is None:
            return now
        was = dict(zip(COLUMNS, cells(entry, self.names), strict=True))
        new = {
            name: row[name].strip()
            for name in COLUMNS
            if row[name].strip() != was[name].strip()
        }
        changes: dict[str, object] = {
            name: new[name] for name in ("kind", "status", "slug", "title") if name in new
        }
        if "date" in new:
            if new["date"]:
                changes["published"] = self._date(new["date"])
            else:
                changes["published"] = None
        if "author" in new:
            if new["author"]:
                author = author_named(new["author"], self.store)
            else:
                author = None
            if author:
                changes["authors"] = (author.key,)
            else:
                changes["authors"] = ()
        return replace(
            now,
            **{
                name: value
                for name, value in changes.items()
                if value or name not in ("kind", "status")
            },
        )
