"""Something done with every entry, in this process or in others: the same in the same order."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from concurrent.futures.process import BrokenProcessPool
from dataclasses import fields
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from newburrow.convert.context import Context
from newburrow.core.problem import stop
from newburrow.core.workers import workers
from newburrow.model import Entry
from newburrow.store.content_store import Store
from newburrow.store.journal.reader import JournalReader

SHARED = 2000  # entries; fewer are not worth the start of other processes
_PIECE = 100  # entries handed to a process at a time
_AHEAD = 3  # pieces for each process that wait or are under way; all of them are held in memory
_OPENED = ("store", "journal")

R = TypeVar("R")
# number of an entry, the entry -> what came of it
Task = Callable[[int, Entry, Context, JournalReader], R]

_encode = msgspec.json.Encoder().encode


def each(context: Context, task: Task[R], kind: type[R], processes: int) -> Iterator[R]:
    """What comes of every entry of the store. In one process, unless there are more and enough entries to share.

    A task reads the journal as it stood before, and is a function that others can find by its name.
    """
    context.planning.publish()
    decode = msgspec.json.Decoder(kind).decode
    shared = processes > 1 and context.store.count(Entry) >= SHARED
    # What comes from another process is decoded; so is the rest, lest a byte of what is written depend on it.
    return map(decode, _shared(context, task, processes) if shared else _here(context, task))


def _noting(context: Context, store: Store, journal: Path) -> tuple[Context, JournalReader]:
    """The same move, read only."""
    reading = JournalReader(journal)
    return Context(**{**_facts(context), "store": store, "journal": reading}), reading


def _facts(context: Context) -> dict[str, Any]:
    return {
        one.name: getattr(context, one.name)
        for one in fields(context)
        if one.name not in (*_OPENED, "tally")
    }


def _here(context: Context, task: Task[R]) -> Iterator[bytes]:
    own, journal = _noting(context, context.store, context.planning.path)
    with journal:
        for number, entry in context.store.numbered(Entry):
            yield _encode(task(number, entry, own, journal))


def _shared(context: Context, task: Task[R], processes: int) -> Iterator[bytes]:
    paths = (context.store.path, context.planning.path)
    with workers(processes, _begin, (_facts(context), *paths)) as pool:
        waiting: deque[Future[list[bytes]]] = deque()
        last, at = context.store.last(Entry), 0
        try:
            while at < last or waiting:
                while at < last and len(waiting) < processes * _AHEAD:
                    waiting.append(pool.submit(_piece, task, at, at + _PIECE))
                    at += _PIECE
                yield from waiting.popleft().result()
        except BrokenProcessPool:
            advice = "Mostly the memory was not enough. Run it again; it begins anew, with what was read."
            raise stop(
                "process-died",
                "A process that converted entries was ended from outside.",
                advice,
            ) from None


# of this process, where it is one that converts
_mine: tuple[Context, JournalReader] | None = None


def _begin(facts: dict[str, Any], store: Path, journal: Path) -> None:
    """Open what is read, in a process of its own."""
    global _mine
    reading = JournalReader(journal)
    _mine = Context(**facts, store=Store(store), journal=reading), reading


def _piece(task: Task[Any], after: int, upto: int) -> list[bytes]:
    """What comes of the entries of these numbers."""
    assert _mine is not None
    context, journal = _mine
    return [
        _encode(task(number, entry, context, journal))
        for number, entry in context.store.numbered(Entry, after, upto)
    ]
