"""Trying a move: a result of one item or a few, at the addresses that they get in the whole move."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from newburrow.commands.opened_move import opened
from newburrow.commands.shown_object import find_in
from newburrow.convert import conversion
from newburrow.convert.context import Context
from newburrow.convert.plan import order
from newburrow.convert.step import ids
from newburrow.core.problem import Problem, refusal
from newburrow.core.progress import Listener, nobody
from newburrow.decide.move_folder import MoveFolder
from newburrow.formats.base import Refused, Writer
from newburrow.model import Entry
from newburrow.redirects.known import learn as known_addresses
from newburrow.store.journal.reader import JournalReader
from newburrow.write.new_site import NewSite

TRY = "try"  # the folder within the move folder


class TriedEntry(Struct, frozen=True):
    """An entry that was written."""

    title: str
    new: str  # address


class NotWritten(Struct, frozen=True):
    """An entry that was not written."""

    title: str
    reason: str


class Tried(Struct, frozen=True):
    """What a try came to."""

    entries: list[TriedEntry]
    files: int
    not_written: list[NotWritten]
    follow_ups: list[Problem]
    out: Path  # what the new host imports


def try_items(
    folder: MoveFolder, words: Sequence[str], listener: Listener = nobody, jobs: int = 1
) -> Tried:
    """Convert the items that these words name (id, slug, address, part of a title), and nothing else.

    The whole move is planned, so that they have the addresses and ids that they will have, and links between entries
    lead where they will lead. The result is in `try/new/`; `new/`, redirects, ledger and follow-ups stay as they are.
    Raises BurrowError where nothing, or more than one item, has such a name.
    """
    with folder.locked(), opened(folder, listener, jobs) as move:
        context = move.context
        _leave_menus(context)
        chosen = [_entry(context, word) for word in words]
        order.plan(context, listener, jobs)
        known_addresses.learn(folder, context)
        context.planning.publish()
        trial = MoveFolder.new(folder.path / TRY)
        with trial.locked():
            site = NewSite(trial, False, context, move.exports)
            writer = site.writer("", move.templates)
            tried = _written(chosen, context, writer, site)
            writer.finish()
            site.pack()
            trial.tidy(("new/",))
    return tried


def _leave_menus(context: Context) -> None:
    """Leave out menus: those of a try would lead to pages that are not there."""
    host = context.host
    context.host = replace(host, site=replace(host.site, menus=False, front_page=False))


def _entry(context: Context, word: str) -> tuple[int, Entry]:
    record = find_in(context.store, word).record
    if not isinstance(record, Entry):
        raise refusal(
            "no-such-item",
            f"{word!r} is not an entry.",
            "Name a post, a page or another entry; its comments and files come with it.",
        )
    return context.store.number_of(record), record


def _written(
    chosen: list[tuple[int, Entry]], context: Context, writer: Writer, site: NewSite
) -> Tried:
    entries, refused = list[TriedEntry](), list[NotWritten]()
    problems, shown = list[Problem](), dict[str, None]()
    with JournalReader(context.planning.path) as journal:
        context.journal = journal
        for number, entry in chosen:
            made = conversion.convert(number, entry, context, journal)
            if made.bundle is None:
                reasons = [row.reason for row in made.notes.ledger if row.key == entry.key]
                refused.append(NotWritten(entry.title, next(iter(reasons), "it is left out")))
                continue
            problems += made.notes.follow_ups
            try:
                problems += writer.entry(made.bundle)
            except Refused as error:
                refused.append(NotWritten(entry.title, error.reason))
                continue
            entries.append(TriedEntry(made.bundle.entry.title, made.bundle.new_address))
            shown |= dict.fromkeys(made.notes.shown)
        files = sum(1 for _path in _files(shown, context, writer, site))
    return Tried(entries, files, refused, problems, site.output.folder.path / "new")


def _files(
    shown: dict[str, None], context: Context, writer: Writer, site: NewSite
) -> Iterator[str]:
    """Copy the files that the entries show or link to; gives their paths."""
    for address in shown:
        media = context.media_at(address)
        new = context.new_media(media.key) if media else None
        if media and new and new.path:
            site.copy(media, new)
            for _problem in writer.media(ids.of_media(new, context)):
                pass
            yield new.path
