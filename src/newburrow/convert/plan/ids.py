"""Ids: kept where the host allows it and they are free, else numbered anew, with a table of both."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from newburrow.convert.context import Context
from newburrow.convert.plan import term_pages
from newburrow.model import Comment, Entry, Media, Record
from newburrow.model.keys import bare
from newburrow.store.journal.journal import Journal

TYPES: dict[str, type[Record]] = {"entry": Entry, "comment": Comment, "media": Media}


def plan(context: Context) -> None:
    """Give every object of the move its id on the new host.

    The host's profile says which ids may be kept, `ids.renumber` of which objects none is; the others get the
    next free number, in the order of the store. Does nothing if the host accepts any id, there is one site, the
    host holds nothing yet, and nothing is to be renumbered.
    """
    rules = context.host.ids.keep
    if (
        rules == "any"
        and len(context.sites) == 1
        and not any(context.journal.existing.count(f"id {object_}") for object_ in TYPES)
        and not context.decisions.ids.renumber
    ):
        return
    context.has_ids = True
    for object_, type_ in TYPES.items():
        if object_ in context.decisions.ids.renumber:
            kept = "none"
        else:
            kept = rules
        _Numbering(context.planning, object_, _KEPT[kept]).number(context, type_)


_KEPT: dict[str, Callable[[str], bool]] = {
    "any": lambda _word: True,
    "numbers": lambda word: (
        word.isascii() and word.isdigit() and len(word) < 16 and word[0] != "0"
    ),
    "none": lambda _word: False,
}


class _Numbering:
    """The ids of one type of objects."""

    def __init__(self, journal: Journal, object_: str, is_valid: Callable[[str], bool]) -> None:
        self.journal, self.object, self.kept = journal, object_, is_valid
        self.next = 1

    def number(self, context: Context, type_: type[Record]) -> None:
        """First those that keep theirs, in the order read; then the others, with the numbers that are free."""
        for record in context.store.all(type_):
            own = bare(record.key)
            if self.kept(own) and self._free(own):
                self.journal.ids.add(self.object, record.key, own)
        for record in context.store.all(type_):
            self._give(record.key)
        for term in context.pages_of_terms.values() if type_ is Entry else ():
            self._give(term_pages.key_of(term))

    def _free(self, word: str) -> bool:
        return not self.journal.existing.has(f"id {self.object}", word)

    def _give(self, key: str) -> None:
        while not self.journal.ids.get(self.object, key):
            word = str(self.next)
            if self._free(word):
                self.journal.ids.add(self.object, key, word)
            self.next += 1


def changed(context: Context) -> Iterator[tuple[str, str, str, str]]:
    """The ids that changed, of what moves: type, title, old id, new id."""
    for object_, key, new in context.planning.ids.all():
        title, moves = _moves(object_, key, context)
        if moves and new != key:
            yield object_, title, bare(key), new


def _moves(object_: str, key: str, context: Context) -> tuple[str, bool]:
    """The title of an object, and whether it goes to the new host."""
    if object_ == "media":
        media = context.store.get(Media, key)
        return (media.title or media.path if media else ""), bool(
            context.journal.files.get(key)[0]
        )
    if object_ == "comment":
        comment = context.store.get(Comment, key)
        if comment:
            place = context.journal.plan.get(comment.entry)
        else:
            place = None
        return (
            comment.author_name if comment else ""
        ), place is not None and not place.existing
    entry = context.store.get(Entry, key)
    place = context.journal.plan.get(key)
    return (entry.title if entry else key), place is not None and not place.existing
