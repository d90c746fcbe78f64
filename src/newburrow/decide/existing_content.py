"""Learning what the new host holds already, from its own export or from a list of its addresses."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import AbstractContextManager
from pathlib import Path

from newburrow.core import url
from newburrow.core.dates import utc
from newburrow.decide import held_paths
from newburrow.model import Author, Entry, Media
from newburrow.model.keys import bare
from newburrow.store.content_store import Store
from newburrow.store.journal.existing_keys import comment_key, title_key
from newburrow.store.journal.journal import Journal
from newburrow.store.journal.rows import ExistingItem

OpenExport = Callable[[Path], AbstractContextManager[Store]]


def learn(paths: Sequence[Path], journal: Journal, open_export: OpenExport) -> None:
    """Keep in the journal what is on the new host; `open_export` reads an export into a store.

    A path is an export of that host, or a text file with an address on each line, or a table with the columns `address`
    and, where known, `title`. Raises BurrowError if it is not one of these.
    """
    held_paths.check_are_there(paths)
    for path in paths:
        if held_paths.is_list(path):
            for address, title in held_paths.addresses(path):
                _hold_address(address, title, journal)
        else:
            _learn_export(path, journal, open_export)


def _hold_address(address: str, title: str, journal: Journal) -> None:
    item = ExistingItem(title, "", address)
    journal.existing.add("entry", url.key(address), item)
    journal.existing.add("slug", url.last_name(address), item)
    if title:
        journal.existing.add("title", title_key(title), item)


def _learn_export(path: Path, journal: Journal, open_export: OpenExport) -> None:
    with open_export(path) as store:
        for entry in store.all(Entry):
            _hold_entry(entry, store, journal)
        for author in store.all(Author):
            _hold_author(author, journal)
        for media in store.all(Media):
            item = ExistingItem(media.digest, "", media.address, bare(media.key))
            last = (media.address or media.path).rpartition("/")[2]
            for kind, key in (("media", last), ("id media", bare(media.key))):
                journal.existing.add(kind, key, item)


def _hold_author(author: Author, journal: Journal) -> None:
    """Under the name, and under the other words that may name an author."""
    item = ExistingItem(
        author.name, "", author.address, bare(author.key), author.login, author.email
    )
    for kind, word in (
        ("author", author.name),
        ("person", author.login.casefold()),
        ("person", author.email.casefold()),
    ):
        if word:
            journal.existing.add(kind, word, item)


def _hold_entry(entry: Entry, store: Store, journal: Journal) -> None:
    moment = utc(entry.published)
    item = ExistingItem(entry.title or entry.slug, moment, entry.permalink, bare(entry.key))
    words = [
        ("entry", url.key(entry.permalink)),
        ("guid", entry.guid),
        ("id entry", bare(entry.key)),
    ]
    words += [
        ("slug", entry.slug or url.last_name(entry.permalink)),
        ("title", title_key(entry.title)),
    ]
    words += [("old", url.key(address)) for address in entry.addresses]
    if entry.title and moment:
        words.append(("moment", f"{title_key(entry.title)}\n{moment[:16]}"))
    for kind, key in words:
        if key:
            journal.existing.add(kind, key, item)
    for comment in store.comments_of(entry):
        item = ExistingItem("", utc(comment.published), entry.permalink, bare(comment.key))
        journal.existing.add("comment", comment_key(comment, entry.permalink), item)
        journal.existing.add("id comment", bare(comment.key), item)
