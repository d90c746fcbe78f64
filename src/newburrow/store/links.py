"""References of a store that could not be resolved before everything was read."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import groupby
from operator import itemgetter

import msgspec

from newburrow.core import url
from newburrow.core.problem import Problem
from newburrow.model import Author, Comment, Entry, Media, MenuItem, Revision, Term
from newburrow.model.keys import bare
from newburrow.model.reading import FormerAddress, Relation
from newburrow.model.record_types import sql_table
from newburrow.store.content_store import BATCH, decoder
from newburrow.store.new_store import NewStore
from newburrow.store.references import ReferenceNames
from newburrow.store.schema import index_columns

# Passes over the comments; comments that answer one another in a circle would go on for ever.
_DEEPEST_THREAD = 1000
_relations = msgspec.json.Decoder(list[Relation])
_former = msgspec.json.Decoder(FormerAddress)


def link(store: NewStore) -> None:
    """Resolve the references of records that could not be resolved before everything was read.

    Parents, media and persons that were named by address or slug get their keys; terms and authors that
    were only mentioned are made.
    """
    index_columns(store.db)
    _find_by_address(store)
    _find_entries(store)
    _declare_mentioned(store)
    _relate(store)
    _find_pages(store)
    _find_targets(store)
    _find_former(store)
    _first_versions(store)


def _declare_mentioned(store: NewStore) -> None:
    """Authors and terms that entries name, and nothing declares."""
    for record in store.mentioned.values():
        if store.get(type(record), record.key) is None:
            store.add(record)
    store.mentioned.clear()
    store.write_waiting()
    last = ""
    statement = (
        "SELECT key, data FROM mention WHERE key > ? AND address NOT IN (SELECT address FROM media_address) "
        "AND key NOT IN (SELECT key FROM record_media) ORDER BY key LIMIT ?"
    )
    while rows := store.db.execute(statement, (last, BATCH)).fetchall():
        for _key, data in rows:
            store.add(decoder(Media).decode(data))
        last = rows[-1][0]
    store.write_waiting()
    store.db.execute("DELETE FROM mention")


def _relate(store: NewStore) -> None:
    """Give each entry what was said of it by words, in tables of their own or of what is known only now."""
    words: ReferenceNames | None = None
    for key, relations in _by_entry(store):
        if words is None or words.scope != relations[0].scope:
            words = ReferenceNames(relations[0].scope, store.all(Author), store.all(Term))
        relations = _writers(key, relations, words, store)
        if not relations:
            continue
        entry = store.get(Entry, key)
        if entry is None:
            store.add(words.no_entry(relations))
        else:
            store.change(words.related(entry, relations, store), entry)
            _add_new(words, store)


def _by_entry(store: NewStore) -> Iterator[tuple[str, list[Relation]]]:
    """The relations of each entry with its key, in the order read."""
    first = ""
    keys = "SELECT DISTINCT entry FROM relation WHERE entry > ? ORDER BY entry LIMIT ?"
    statement = (
        "SELECT entry, data FROM relation WHERE entry > ? AND entry <= ? ORDER BY entry, seq"
    )
    while batch := store.db.execute(keys, (first, BATCH)).fetchall():
        last = batch[-1][0]
        rows = store.db.execute(statement, (first, last)).fetchall()
        for key, of_entry in groupby(rows, itemgetter(0)):
            yield key, [said for _key, data in of_entry for said in _relations.decode(data)]
        first = last


def _add_new(words: ReferenceNames, store: NewStore) -> None:
    """Keep the authors and terms that were only named."""
    if not words.new:
        return
    for record in words.new:
        store.add(record)
    words.new.clear()
    store.write_waiting()


def _writers(
    key: str, relations: list[Relation], words: ReferenceNames, store: NewStore
) -> list[Relation]:
    """Give a comment or a revision the author that a relation names; gives the relations that are left."""
    left = []
    for said in relations:
        if said.of == "comment_author":
            if comment := store.get(Comment, key):
                store.change(words.written(comment, said, store))
        elif said.of == "revision_author":
            if revision := store.get(Revision, key):
                store.change(msgspec.structs.replace(revision, author=words.author(said)))
                _add_new(words, store)
        else:
            left.append(said)
    return left


def _find_pages(store: NewStore) -> None:
    """Files, revisions and comments may name their page by its title, which only now are all known."""
    for kind in (Media, Revision, Comment):
        of = "json_extract(CAST(data AS TEXT), '$.entry')"
        statement = (
            f"SELECT seq, data FROM {sql_table(kind)} WHERE {of} IS NOT NULL AND {of} != '' "
            f"AND {of} NOT IN (SELECT key FROM record_entry) AND seq > ? ORDER BY seq LIMIT ?"
        )
        last = 0
        while rows := store.db.execute(statement, (last, BATCH)).fetchall():
            for _seq, data in rows:
                record = decoder(kind).decode(data)
                key = store.page_names.key(bare(record.entry))
                if key or isinstance(record, Media):
                    store.change(msgspec.structs.replace(record, entry=key))
                if isinstance(record, Media) and not key:
                    store.add(
                        Problem.about(record, "file-apart", file=record.path, page=record.entry)
                    )
            last = rows[-1][0]


def _find_former(store: NewStore) -> None:
    """Addresses that the old site redirected are further ones of what they led to in the end."""
    last = ""
    statement = "SELECT key, data FROM former_address WHERE key > ? AND target != '' ORDER BY key LIMIT ?"
    while rows := store.db.execute(statement, (last, BATCH)).fetchall():
        last = rows[-1][0]
        for _key, data in rows:
            former = _former.decode(data)
            target = _end_of(former, store)
            if key := store.key_at(target):
                entry = store.get(Entry, key)
            else:
                entry = None
            media = None if entry else store.media_at(target)
            found = entry or media
            if entry is not None:
                addresses = dict.fromkeys((*entry.addresses, former.address))
                store.change(msgspec.structs.replace(entry, addresses=tuple(addresses)))
            elif media is not None:
                addresses = dict.fromkeys((*media.addresses, former.address))
                store.change(msgspec.structs.replace(media, addresses=tuple(addresses)))
            if found is None:
                store.add(
                    Problem.at(
                        former.source,
                        "redirect-to-nothing",
                        address=former.address,
                        target=former.target,
                    )
                )


def _end_of(former: FormerAddress, store: NewStore) -> str:
    """Where a redirect leads in the end; one in a circle ends where it began."""
    target, seen = former.target, {url.key(former.address)}
    while (key := url.key(target)) not in seen:
        seen.add(key)
        row = store.db.execute(
            "SELECT target FROM former_address WHERE key = ?", (key,)
        ).fetchone()
        if row is None or not row[0]:
            return target
        target = row[0]
    return former.address


def _find_targets(store: NewStore) -> None:
    """A line of a menu may name its page by the title."""
    for line in store.all(MenuItem):
        if not line.target or "://" in line.target or store.get(Entry, line.target):
            continue
        if key := store.page_names.key(bare(line.target)):
            store.change(msgspec.structs.replace(line, target=key))


def _first_versions(store: NewStore) -> None:
    """A page with a history was first published with its first version, by that version's author."""
    for key in store.with_history():
        entry, first = store.get(Entry, key), store.first_revision(key)
        if entry is None or first is None:
            continue
        dated = first.published and (
            entry.published is None or first.published < entry.published
        )
        authors = dict.fromkeys(key for key in (first.author, *entry.authors) if key)
        store.change(
            msgspec.structs.replace(
                entry,
                published=first.published if dated else entry.published,
                updated=entry.updated or (entry.published if dated else None),
                authors=tuple(authors),
            )
        )


def _find_by_address(store: NewStore) -> None:
    """A comment may say its entry by an address or a lasting identifier of it, which only now are all known."""
    stray = (
        "SELECT seq, data FROM record_comment WHERE entry != '' "
        "AND entry NOT IN (SELECT key FROM record_entry) "
        "AND entry NOT IN (SELECT key FROM record_media) "
        "AND entry NOT IN (SELECT key FROM record_comment) AND seq > ? ORDER BY seq LIMIT ?"
    )
    last, rows = 0, store.db.execute(stray, (0, BATCH)).fetchall()
    if rows:
        _learn_addresses(store)
    while rows:
        for number, data in rows:
            last, comment = number, decoder(Comment).decode(data)
            words = (bare(comment.entry), url.key(comment.entry))
            found = [key for word in words if word for key in store.known(f"entry {word}")]
            if found:
                store.change(msgspec.structs.replace(comment, entry=found[0]))
        rows = store.db.execute(stray, (last, BATCH)).fetchall()


def _learn_addresses(store: NewStore) -> None:
    for entry in store.all(Entry):
        for word in sorted(
            {entry.guid, *(url.key(address) for address in (entry.permalink, *entry.addresses))}
            - {""}
        ):
            store.learn(f"entry {word}", entry.key)


def _find_entries(store: NewStore) -> None:
    """A comment may say only what it answers; where that is a comment, both belong to the same entry.

    Each pass settles one level of the threads.
    """
    stray = (
        "SELECT c.seq, c.data, p.key, p.entry FROM record_comment c JOIN record_comment p ON p.key = c.entry "
        "WHERE c.entry NOT IN (SELECT key FROM record_entry) AND c.entry NOT IN (SELECT key FROM record_media) "
        "AND c.key != p.entry AND c.seq > ? ORDER BY c.seq LIMIT ?"
    )
    for _level in range(_DEEPEST_THREAD):
        last = moved = 0
        while rows := store.db.execute(stray, (last, BATCH)).fetchall():
            moved += len(rows)
            for _seq, data, parent, entry in rows:
                comment = decoder(Comment).decode(data)
                store.change(
                    msgspec.structs.replace(
                        comment, parent=comment.parent or parent, entry=entry
                    )
                )
            last = rows[-1][0]
        if not moved:
            return
