"""The long lists of the report as data in the page: all rows are there; a browser draws those that are looked at."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence

from msgspec import Struct

from newburrow.convert.context import Context
from newburrow.model import Author, Term
from newburrow.store.journal.journal import Journal

_TOGETHER = 50  # rows of one piece of the page


class DataList(Struct, frozen=True):
    """A list of the report."""

    name: str
    columns: tuple[str, ...]
    pieces: Iterator[str]  # its rows as JSON (RFC 8259), in pieces


def ledger(journal: Journal) -> DataList:
    """What became of every object; what did not move comes first."""
    columns = ("kind", "title", "old", "new", "fate", "reason")
    rows = (
        (row.kind, row.title or row.key, row.old, row.new, row.fate.value, row.reason)
        for part in (journal.ledger.not_moved(), journal.ledger.moved())
        for row in part
    )
    return DataList("ledger", columns, _pieces(rows))


def follow_ups(journal: Journal) -> DataList:
    """What a person must still do, the worst first; then what is done or accepted."""
    columns = (
        "code",
        "severity",
        "what",
        "title",
        "old",
        "new",
        "advice",
        "places",
        "state",
        "note",
    )

    def rows() -> Iterator[Sequence[str]]:
        for (
            code,
            severity,
            title,
            old,
            new,
            what,
            advice,
            places,
            _key,
            *marks,
        ) in journal.follow_ups.grouped():
            done, accepted, note = marks
            state = "accepted" if accepted else "done" if done else severity
            yield code, severity, what, title, old, new, advice, places, state, note

    return DataList("follow-ups", columns, _pieces(rows()))


def addresses(journal: Journal) -> DataList:
    """The answer to every old address."""
    columns = ("old", "new", "status", "why")
    rows = ((row.old, row.new, str(row.status), row.why) for row in journal.urls.all())
    return DataList("addresses", columns, _pieces(rows))


def walked(columns: tuple[str, ...], rows: Iterable[Sequence[object]]) -> DataList:
    """What a walk through both sites finds."""
    return DataList("walk", columns, _pieces(rows))


def names(context: Context) -> DataList:
    """Authors and terms, as they were and as they are."""

    def rows() -> Iterator[Sequence[str]]:
        for author in context.store.all(Author):
            new = context.authors.get(author.key)
            yield "author", author.name or author.login or author.key, new.name if new else ""
        for term in context.store.all(Term):
            became = context.terms.get(term.key)
            name = f"{became.name} ({became.vocabulary})" if became else ""
            yield "term", f"{term.name} ({term.vocabulary})", name

    return DataList("names", ("kind", "old", "new"), _pieces(rows()))


def _pieces(rows: Iterable[Sequence[object]]) -> Iterator[str]:
    """The rows as one JSON array, in pieces; no `<` is in it, so that nothing can end the element around it."""
    begin, waiting = "[", list[str]()
    for row in rows:
        waiting.append(json.dumps(row, ensure_ascii=False).replace("<", "\\u003c"))
        if len(waiting) == _TOGETHER:
            yield begin + ",\n".join(waiting)
            begin, waiting = ",\n", []
    yield (begin + ",\n".join(waiting) if waiting or begin == "[" else "") + "]"
