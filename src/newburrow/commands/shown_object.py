"""Finding one object of a store by what a person has at hand: its id, slug, address, or part of its title."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain, islice

from msgspec import Struct

from newburrow.core import url
from newburrow.core.problem import refusal
from newburrow.core.suggestions import nearest
from newburrow.model import Author, Comment, Entry, Media, Question, Term
from newburrow.store.content_store import Store

MOST = 20  # candidates named if several match
_COMPARED = 20_000  # titles compared to find the nearest one


class ShownObject(Struct, frozen=True):
    """One object with what hangs on it."""

    record: Entry | Media | Comment
    authors: list[Author] = []
    terms: list[Term] = []
    comments: list[Comment] = []
    questions: list[Question] = []  # of a quiz or a question bank
    lead_picture: Media | None = None
    parent: Entry | None = None


def find_in(store: Store, word: str) -> ShownObject:
    """The one object of a store that a word names: by id, slug, address, or part of a title.

    Raises BurrowError if no object matches, with the nearest ones, or if several do, with the first of them.
    """
    return _shown_object(_item_named(store, word), store)


def _item_named(store: Store, word: str) -> Entry | Media | Comment:
    exact = store.get(Entry, word) or store.get(Media, word)
    if exact:
        return exact
    count, fitting = _fitting(store, word)
    if count == 1:
        return fitting[0]
    if fitting:
        shown = "\n".join(_told_apart(fitting))
        if count > len(fitting):
            more = f"\n  and {count - len(fitting):,} more"
        else:
            more = ""
        raise refusal(
            "several-items",
            f"{count:,} items fit {word!r}:\n{shown}{more}",
            "Name one by its id.",
        )
    comment = store.get(Comment, word)
    if comment:
        return comment
    titles = nearest(word, islice((_title(entry) for entry in store.all(Entry)), _COMPARED))
    near = " or ".join(repr(title) for title in titles)
    if near:
        advice = f"Did you mean {near}?"
    else:
        advice = "See what is there with `newburrow survey`."
    raise refusal(
        "no-such-item", f"No item has the id, slug, address or title {word!r}.", advice
    )


def _fitting(store: Store, word: str) -> tuple[int, list[Entry | Media]]:
    """Those that fit best, by address, else slug, else whole title, else part of the title: how many, and the first."""
    site = store.site().address
    if site or "://" in word:
        key = url.key(url.resolve(site, word))
    else:
        key = ""
    low = word.casefold().strip()
    counts = [0, 0, 0, 0]
    first: list[list[Entry | Media]] = [[], [], [], []]
    for record in chain[Entry | Media](store.all(Entry), store.all(Media)):
        if isinstance(record, Entry):
            own = record.permalink
        else:
            own = record.address
        if isinstance(record, Entry):
            slug = record.slug.casefold()
        else:
            slug = None
        title = _title(record).casefold()
        by_address = bool(key) and key in map(url.key, (own, *record.addresses))
        fits = (by_address, slug == low, title == low, low in title)
        if any(fits):
            rank = fits.index(True)
            counts[rank] += 1
            if len(first[rank]) < MOST:
                first[rank] += [record]
    return next(
        ((count, found) for count, found in zip(counts, first, strict=True) if count), (0, [])
    )


def _told_apart(records: list[Entry | Media]) -> Iterator[str]:
    """A line for each record that tells it from the others: id, kind, day, title, and where it stood."""
    cells = [
        (
            record.key,
            record.kind if isinstance(record, Entry) else "file",
            f"{record.published:%Y-%m-%d}"
            if isinstance(record, Entry) and record.published
            else "",
            _title(record),
            _place(record),
        )
        for record in records
    ]
    widths = [max(len(row[column]) for row in cells) for column in range(3)]
    for *known, title, place in cells:
        columns = [
            cell.ljust(width) for cell, width in zip(known, widths, strict=True) if width
        ]
        yield "  ".join(["", *columns, title, place]).rstrip()


def _place(record: Entry | Media) -> str:
    """Where a record stood: the path of its address; a state that readers do not see, after it."""
    if isinstance(record, Entry):
        address = record.permalink
    else:
        address = record.address or record.path
    path = url.full_path(address) or address
    if isinstance(record, Entry) and record.status != "published":
        return f"{path} ({record.status})"
    return path


def _title(record: Entry | Media) -> str:
    if isinstance(record, Entry):
        return record.title or record.slug or record.permalink
    return record.title or record.path


def _shown_object(record: Entry | Media | Comment, store: Store) -> ShownObject:
    if not isinstance(record, Entry):
        return ShownObject(record)
    return ShownObject(
        record,
        [author for key in record.authors if (author := store.get(Author, key))],
        [term for key in record.terms if (term := store.get(Term, key))],
        store.comments_of(record),
        store.questions_of(record.key),
        store.get(Media, record.lead_picture) if record.lead_picture else None,
        store.get(Entry, record.parent) if record.parent else None,
    )
