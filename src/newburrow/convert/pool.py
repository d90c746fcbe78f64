"""Something done with every entry, in this process or in others: the same in the same order."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import fields
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from newburrow.convert.context import Context
from newburrow.core.workers import Pool
from newburrow.model import Entry, Question
from newburrow.store.content_store import Store
from newburrow.store.journal.reader import JournalReader

SHARED = 2000  # entries and questions; with fewer, starting other processes does not pay
_PIECE = 100  # of these given to a process at a time
_OPENED = ("store", "journal", "tally")  # what each process has for itself

R = TypeVar("R")
# Takes the number of an entry, the entry, the move, and the journal to look things up and note in.
Task = Callable[[int, Entry, Context, JournalReader], R]

_encode = msgspec.json.Encoder().encode


def each(context: Context, task: Task[R], kind: type[R], jobs: int) -> Iterator[R]:
    """What comes of every entry of the store, as records of `kind`, in the order of the store.

    Uses several processes if there are several jobs and enough entries to share. A task reads the
    journal as it stood before; it is a function of a module, so that other processes find it.
    """
    context.planning.publish()
    decode = msgspec.json.Decoder(kind).decode
    if jobs > 1 and _size(context.store) >= SHARED:
        made = _shared(context, task, jobs)
    else:
        made = _here(context, task)
    # Results of other processes are decoded, so the ones made here are too: no byte may depend on the process.
    return map(decode, made)


def _size(store: Store) -> int:
    """What there is to convert; a question is as much work as a short page."""
    return store.count(Entry) + store.count(Question)


def _facts(context: Context) -> dict[str, Any]:
    """What another process has to be given of a move."""
    names = [field.name for field in fields(context) if field.name not in _OPENED]
    return {name: getattr(context, name) for name in names}


def _here(context: Context, task: Task[R]) -> Iterator[bytes]:
    with JournalReader(context.planning.path) as journal:
        own = Context(**_facts(context), store=context.store, journal=journal)
        for number, entry in context.store.numbered(Entry):
            yield _encode(task(number, entry, own, journal))


def _shared(context: Context, task: Task[R], jobs: int) -> Iterator[bytes]:
    last = context.store.last(Entry)
    entries = max(1, _PIECE * context.store.count(Entry) // _size(context.store))
    pieces = ((task, first, first + entries) for first in range(0, last, entries))
    facts = (_facts(context), context.store.path, context.planning.path)
    with Pool(jobs, _begin, facts) as pool:
        for made in pool.ordered(_piece, pieces):
            yield from made


# Of this process, if it was started for this purpose.
_opened: tuple[Context, JournalReader] | None = None


def _begin(facts: dict[str, Any], store: Path, journal: Path) -> None:
    """Open what a task reads, in a process of its own."""
    global _opened
    reader = JournalReader(journal)
    _opened = Context(**facts, store=Store(store), journal=reader), reader


def _piece(task: Task[Any], after: int, upto: int) -> list[bytes]:
    """What comes of the entries with these numbers."""
    assert _opened is not None
    context, journal = _opened
    entries = context.store.numbered(Entry, after, upto)
    return [_encode(task(number, entry, context, journal)) for number, entry in entries]
