"""Filling a new content store: nothing is at its path before it is complete."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path

from newburrow.core.problem import Problem
from newburrow.model.reading import Item
from newburrow.store import migrations
from newburrow.store.content_store import Store
from newburrow.store.links import link
from newburrow.store.menu_tree import place_by_menu
from newburrow.store.new_store import NewStore


def fill(
    path: Path,
    exports: Iterable[Iterable[Item | Problem]],
    meta: Callable[[], dict[str, str]],
    unite: Callable[[NewStore], None] = lambda _store: None,
) -> Store:
    """Make a new store at `path` with the records of all exports.

    The store is filled under another name and renamed when it is complete, so that a killed run leaves
    no half-filled one. Raises BurrowError if an export cannot be read.
    """

    def put(store: NewStore) -> None:
        for records in exports:
            for record in records:
                store.add(record)
            store.export_ends()

    return filled(path, put, meta, unite)


def filled(
    path: Path,
    put: Callable[[NewStore], None],
    meta: Callable[[], dict[str, str]],
    unite: Callable[[NewStore], None],
) -> Store:
    """A new store at `path` with what `put` puts into it; nothing is there before it is complete.

    `meta` gives facts about the source, and is asked last.
    """
    part = path.with_name(path.name + ".part")
    part.unlink(missing_ok=True)
    with NewStore(part) as store:
        try:
            put(store)
            link(store)
            place_by_menu(store)
            unite(store)
            store.finish(meta)
            migrations.finish(store.db)
            store.commit()
        except BaseException:
            store.__exit__()
            part.unlink(missing_ok=True)
            raise
    part.replace(path)
    return Store(path)
