"""The story of one item of a move: where it stood, what was decided of it, where it goes, and how it looks there."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from newburrow.commands.finished_move import FinishedMove
from newburrow.commands.shown_object import ShownObject, find_in
from newburrow.core import url
from newburrow.core.dates import zone_named
from newburrow.decide.move_folder import MOVE, MoveFolder
from newburrow.decide.rules import Rules
from newburrow.model import Entry
from newburrow.model.bundle import Above, Bundle
from newburrow.report import log_lines, pages, preview
from newburrow.report.pictures import Pictures
from newburrow.store.content_store import Store
from newburrow.store.journal.rows import LedgerRow, OldAddress
from newburrow.verify import entry_facts
from newburrow.verify.bodies import SiteBodies


class FactChange(Struct, frozen=True):
    """A fact that is another one on the new site."""

    fact: str
    old: str
    new: str


class Side(Struct, frozen=True):
    """A text on one of the two sites."""

    address: str
    html: str


class Story(Struct, frozen=True):
    """The story of one item."""

    item: ShownObject
    fates: list[LedgerRow]
    decided: list[str]  # rules and rows of tables that touched it
    changes: list[FactChange]
    redirects: list[OldAddress]
    follow_ups: list[tuple[str, str, str]]  # code, what, what to do
    old: Side
    new: Side | None  # None where nothing was written
    new_entry: Bundle | None  # as it was handed to the new host
    log_lines: list[str] = []  # about it, where a log was named


def story(folder: MoveFolder, word: str, log: Path | None = None) -> Story:
    """The story of the item that a word names in a finished move, with the lines about it in a log.

    Raises BurrowError where the folder has no finished move, or no such item, or the log cannot be read.
    """
    with FinishedMove(folder) as move:
        return _with_log(_told(find_in(move.store, word), move), log)


def _with_log(told: Story, log: Path | None) -> Story:
    if log is None:
        return told
    record = told.item.record
    return replace(told, log_lines=log_lines.lines_about(log, record.table, record.key))


def story_page(folder: MoveFolder, word: str, log: Path | None = None) -> str:
    """The same as one self-contained HTML page: old and new side by side, with nothing that runs or loads.

    Raises BurrowError as `story` does.
    """
    with FinishedMove(folder) as move:
        told = _with_log(_told(find_in(move.store, word), move), log)
        pictures = Pictures(
            move.journal.urls, move.journal.files, move.journal.handed, move.path
        )
        sides = [
            (name, side.address, preview.page(side.html, name, pictures.on(side.address)))
            for name, side in (("old", told.old), ("new", told.new))
            if side is not None
        ]
        return pages.rendered("story.html.j2", story=told, sides=sides, host=move.host)


def _told(item: ShownObject, move: FinishedMove) -> Story:
    record, journal = item.record, move.journal
    fates = journal.ledger.of(record.table, record.key)
    follow_ups = journal.follow_ups.of(record.table, record.key)
    if not isinstance(record, Entry):
        return Story(item, fates, [], [], [], follow_ups, Side("", ""), None, None)
    bodies = SiteBodies(move.store, move.dialects)
    old = Side(record.permalink, bodies.html(record.body, record.permalink))
    decided = list(_decided(record, move))
    handed = journal.handed.entry(record.key)
    if handed is None:
        return Story(item, fates, decided, [], [], follow_ups, old, None, None)
    return Story(
        item,
        fates,
        decided,
        _changes(record, handed, move.store),
        journal.urls.leading_to(url.key(handed.new_address)),
        follow_ups,
        old,
        Side(handed.new_address, bodies.html(handed.entry.body, handed.new_address)),
        handed,
    )


def _changes(entry: Entry, handed: Bundle, store: Store) -> list[FactChange]:
    """The facts that are others on the new site than on the old one."""
    parent = handed.trail[-1] if handed.trail else Above("", "")
    before = entry_facts.found(entry, store, Above("", ""))
    after = entry_facts.handed(handed, parent)
    comments = len(store.comments_of(entry))
    before["comments"], after["comments"] = str(comments), str(len(handed.comments))
    return [
        FactChange(fact, before.get(fact, ""), after.get(fact, ""))
        for fact in {**before, **after}
        if before.get(fact, "") != after.get(fact, "")
    ]


def _decided(entry: Entry, move: FinishedMove) -> Iterator[str]:
    """The decisions that name it: rules, its row in `entries.csv`, what becomes of its kind and state."""
    decisions, zone = move.decisions, zone_named(move.store.site().zone)

    def local(moment: datetime) -> datetime:
        return moment.astimezone(zone)

    rules = Rules(decisions.rules, move.store, local)
    for number in rules.changed(entry).touched:
        about = decisions.rules[number].about
        yield f"rule {number + 1} of {MOVE}{f' ({about})' if about else ''}"
    row = move.journal.edits.get(entry.key)
    if row:
        said = ", ".join(f"{name} {value}" for name, value in row.items() if value)
        yield f"its row in entries.csv: {said}"
    kind = decisions.kinds.get(entry.kind)
    if kind and kind != entry.kind:
        yield f"kinds.{entry.kind} = {kind}"
    state = decisions.states.get(entry.status)
    if state and state != entry.status:
        yield f"states.{entry.status} = {state}"
