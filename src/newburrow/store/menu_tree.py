"""The tree of a wiki whose pages say nothing of it: its own menu, with a line below another."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.model import Entry, MenuItem
from newburrow.store.new_store import NewStore

_WIKI_PAGE = "wiki-page"
_DEEPEST = 100  # levels; a menu is shown to people


def place_by_menu(store: NewStore) -> None:
    """Put each wiki page under the page that its line of a menu stands under.

    Does nothing if any wiki page says itself what it is under. The targets of the lines must be resolved
    already. A page that stands in several places gets the first; none comes under itself.
    """
    if _has_tree(store):
        return
    for line in store.all(MenuItem):
        above = store.get(MenuItem, line.parent) if line.parent else None
        page = _page(line, store)
        parent = _page(above, store) if above else None
        if page is None or parent is None or page.parent or _is_below(parent, page, store):
            continue
        store.change(replace(page, parent=parent.key, position=line.position))


def _has_tree(store: NewStore) -> bool:
    statement = (
        "SELECT 1 FROM record_entry WHERE json_extract(CAST(data AS TEXT), '$.kind') = ? "
        "AND json_extract(CAST(data AS TEXT), '$.parent') != '' LIMIT 1"
    )
    has_lines = store.db.execute("SELECT 1 FROM record_menuitem LIMIT 1").fetchone()
    return not has_lines or store.db.execute(statement, (_WIKI_PAGE,)).fetchone() is not None


def _page(line: MenuItem, store: NewStore) -> Entry | None:
    """The wiki page that a line leads to."""
    page = store.get(Entry, line.target)
    if page is None and "://" in line.target:
        page = store.get(Entry, store.key_at(line.target))
    if page is None or page.kind != _WIKI_PAGE:
        return None
    return page


def _is_below(page: Entry, above: Entry, store: NewStore) -> bool:
    """Whether a page is another one, or stands under it."""
    for _level in range(_DEEPEST):
        if page.key == above.key:
            return True
        parent = store.get(Entry, page.parent) if page.parent else None
        if parent is None:
            return False
        page = parent
    return True
