"""All entries converted, in this process or in others: the same in the same order."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future
from concurrent.futures.process import BrokenProcessPool
from dataclasses import fields
from pathlib import Path
from typing import Any

import msgspec

from newburrow.convert.context import Context
from newburrow.convert.converting import Converted, convert
from newburrow.convert.noting import NotingJournal
from newburrow.model import Entry
from newburrow.problem import stop
from newburrow.processes import workers
from newburrow.store import Store

SHARED = 2000  # entries; fewer are not worth the start of other processes
_PIECE = 100  # entries handed to a process at a time
_AHEAD = 3  # pieces for each process that wait or are under way; all of them are held in memory
_OPENED = ("store", "journal")

_decode = msgspec.json.Decoder(Converted).decode
_encode = msgspec.json.Encoder().encode


def converted(context: Context, processes: int) -> Iterator[Converted]:
    """Every entry of the store, converted. In one process, unless there are more and enough entries to share."""
    if processes < 2 or context.store.count(Entry) < SHARED:
        yield from _here(context)
    else:
        yield from _shared(context, processes)


def _noting(context: Context, store: Store, journal: Path) -> tuple[Context, NotingJournal]:
    """The same move, read only."""
    reading = NotingJournal(journal)
    return Context(**{**_facts(context), "store": store, "journal": reading}), reading


def _facts(context: Context) -> dict[str, Any]:
    return {one.name: getattr(context, one.name) for one in fields(context) if one.name not in (*_OPENED, "tally")}


def _here(context: Context) -> Iterator[Converted]:
    own, journal = _noting(context, context.store, context.journal.path)
    with journal:
        for entry in context.store.all(Entry):
            # What comes from another process is decoded; so is this, lest a byte of what is written depend on it.
            yield _decode(_encode(convert(entry, own, journal)))


def _shared(context: Context, processes: int) -> Iterator[Converted]:
    paths = (context.store.path, context.journal.path)
    with workers(processes, _begin, (_facts(context), *paths)) as pool:
        waiting: deque[Future[list[bytes]]] = deque()
        last, at = context.store.last(Entry), 0
        try:
            while at < last or waiting:
                while at < last and len(waiting) < processes * _AHEAD:
                    waiting.append(pool.submit(_piece, at, at + _PIECE))
                    at += _PIECE
                yield from map(_decode, waiting.popleft().result())
        except BrokenProcessPool:
            advice = "Mostly the memory was not enough. Run it again; it begins anew, with what was read."
            raise stop("process-died", "A process that converted entries was ended from outside.", advice) from None


_mine: tuple[Context, NotingJournal] | None = None  # of this process, where it is one that converts


def _begin(facts: dict[str, Any], store: Path, journal: Path) -> None:
    """Open what is read, in a process of its own."""
    global _mine
    reading = NotingJournal(journal)
    _mine = Context(**facts, store=Store(store), journal=reading), reading


def _piece(after: int, upto: int) -> list[bytes]:
    """The entries of these numbers, converted."""
    assert _mine is not None
    context, journal = _mine
    return [_encode(convert(entry, context, journal)) for _seq, entry in context.store.numbered(Entry, after, upto)]
