"""Finding one object of an export by what a person has at hand: its id, slug, address, or part of its title."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from itertools import chain
from pathlib import Path

from msgspec import Struct

from newburrow import address, reading
from newburrow.events import Listener, nobody
from newburrow.filling import filled_store
from newburrow.model import Author, Comment, Entry, Media, Term
from newburrow.problem import nearest, stop
from newburrow.store import Store

MOST = 20  # candidates named where several fit


class Found(Struct, frozen=True):
    """One object with what hangs on it."""

    record: Entry | Media | Comment
    authors: list[Author] = []
    terms: list[Term] = []
    comments: list[Comment] = []
    lead_picture: Media | None = None
    parent: Entry | None = None


def find(paths: Sequence[Path], word: str, dialect: str = "", listener: Listener = nobody) -> Found:
    """The one object that the word names. Raises BurrowError where none or several do, naming the nearest."""
    exports = [reading.examine(path, dialect) for path in paths]
    with tempfile.TemporaryDirectory(prefix="newburrow-") as name:
        with filled_store(Path(name) / "content.sqlite", exports, listener) as store:
            return _whole(_one(store, word), store)


def _one(store: Store, word: str) -> Entry | Media | Comment:
    exact = store.get(Entry, word) or store.get(Media, word)
    if exact:
        return exact
    fitting = _fitting(store, word)
    if len(fitting) == 1:
        return fitting[0]
    if fitting:
        shown = "\n".join(f"  {one.key}  {_title(one)}" for one in fitting[:MOST])
        more = f"\n  and {len(fitting) - MOST} more" if len(fitting) > MOST else ""
        raise stop("several", f"{len(fitting)} items fit {word!r}:\n{shown}{more}", "Name one by its id.")
    comment = store.get(Comment, word)
    if comment:
        return comment
    titles = nearest(word, (_title(entry) for entry in store.all(Entry)))
    advice = (
        "Did you mean " + " or ".join(repr(title) for title in titles) + "?"
        if titles
        else "See what is there with `newburrow survey`."
    )
    raise stop("no-item", f"No item has the id, slug, address or title {word!r}.", advice)


def _fitting(store: Store, word: str) -> list[Entry | Media]:
    """Those that fit best: by address, else by slug, else by whole title, else by part of the title."""
    site = store.site().address
    key = address.key(address.resolve(site, word)) if site or "://" in word else ""
    low = word.casefold().strip()
    ranks: list[list[Entry | Media]] = [[], [], [], []]
    for record in chain[Entry | Media](store.all(Entry), store.all(Media)):
        addresses = (
            (record.permalink, *record.addresses) if isinstance(record, Entry) else (record.address, *record.addresses)
        )
        title = _title(record).casefold()
        fits = (
            bool(key) and key in map(address.key, addresses), isinstance(record, Entry) and record.slug.casefold() == low,
            title == low, low in title,
        )  # fmt: skip
        for rank, fit in zip(ranks, fits, strict=True):
            if fit:
                rank.append(record)
                break
    return next((rank for rank in ranks if rank), [])


def _title(record: Entry | Media) -> str:
    if isinstance(record, Entry):
        return record.title or record.slug or record.permalink
    return record.title or record.path


def _whole(record: Entry | Media | Comment, store: Store) -> Found:
    if not isinstance(record, Entry):
        return Found(record)
    return Found(
        record,
        [author for key in record.authors if (author := store.get(Author, key))],
        [term for key in record.terms if (term := store.get(Term, key))],
        store.comments_of(record),
        store.get(Media, record.lead_picture) if record.lead_picture else None,
        store.get(Entry, record.parent) if record.parent else None,
    )
