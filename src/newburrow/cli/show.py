"""Print all of one item of an export, or the story of one item of a move.

Of an export: its fields, its body, its comments, and its place in the file. Of a move folder: where it stood and where
it goes, what was decided of it, what is different there, its redirects and follow-ups, and old beside new. ITEM is an
id, a slug, an address, or a part of a title.
"""

from __future__ import annotations

import argparse
import textwrap
from collections.abc import Iterator
from datetime import datetime
from itertools import zip_longest
from pathlib import Path

from newburrow.cli.parsing import (
    Parser,
    add_json,
    add_paths,
    add_reading,
    refuse_together,
    request_of,
    says_how_to_read,
)
from newburrow.cli.screen import Screen, cell, table
from newburrow.commands.show import find
from newburrow.commands.shown_object import ShownObject
from newburrow.commands.story import Side, Story, story, story_page
from newburrow.convert.quiz import text_sheet
from newburrow.core import atomic_file
from newburrow.core.problem import refusal
from newburrow.decide.move_folder import MOVE, MoveFolder
from newburrow.markup.shown_lines import text_lines
from newburrow.model import Comment, Entry, Record
from newburrow.model.record_types import name_of

EXAMPLE = (
    "newburrow show export.zip open-day\n  newburrow show my-move open-day --html open-day.html"
)
_GAP = 3  # columns between old and new
_MOST_LINES = 40  # of a text that are shown beside each other


def configure(parser: Parser) -> None:
    """The arguments of `newburrow show`."""
    add_paths(parser)
    parser.add_argument(
        "item", metavar="ITEM", help="an id, a slug, an address, or a part of a title"
    )
    add_reading(parser)
    parser.add_argument(
        "--html", type=Path, metavar="FILE", help="of a move: write old beside new as a page"
    )
    parser.add_argument(
        "--from-log",
        type=Path,
        metavar="FILE",
        help="of a move: also what this log, which --log wrote, says of the item",
    )
    add_json(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Find and print."""
    refuse_together(options, "html", "json")
    first: Path = options.paths[0]
    if len(options.paths) == 1 and (first / MOVE).is_file():
        return _run_story(options, MoveFolder.existing(first), screen)
    for name in ("html", "from_log"):
        if getattr(options, name):
            message = f"--{name.replace('_', '-')} is about an item of a move."
            raise refusal("usage", message, "Name a move folder, not an export.")
    with screen.progress() as listener:
        found = find(request_of(options), options.item, listener)
    if options.json:
        from newburrow.cli.json_forms import of_item

        screen.json("item", of_item(found))
    else:
        _print(found, screen)
    return 0


def _run_story(options: argparse.Namespace, folder: MoveFolder, screen: Screen) -> int:
    if says_how_to_read(options):
        raise refusal(
            "usage",
            "A move folder says itself how its exports are read.",
            "Leave out the options that say how to read.",
        )
    if options.html:
        _check_folder(options.html)
        page = story_page(folder, options.item, options.from_log)
        with atomic_file.replacing(options.html) as stream:
            stream.write(page.encode("utf-8", "replace"))
        screen.line(f"Open {options.html} in a browser.")
        return 0
    told = story(folder, options.item, options.from_log)
    if options.json:
        from newburrow.cli.json_forms import of_story

        screen.json("story", of_story(told))
    else:
        _print_story(told, screen)
    return 0


def _check_folder(file: Path) -> None:
    """Raises BurrowError where the folder in which a file is to be written is not there."""
    if not file.parent.is_dir():
        message = f"There is no folder {str(file.parent)!r}."
        raise refusal("no-such-file", message, "Make it, or name another file for --html.")


def _print_story(told: Story, screen: Screen) -> None:
    record = told.item.record
    screen.line(f"{name_of(record) or record.key}  ({record.key})")
    screen.line(f"in {record.source}")
    for fate in told.fates:
        screen.line(f"{fate.fate}{f': {fate.reason}' if fate.reason else ''}")
    for line in told.decided:
        screen.line(f"by {line}")
    if told.changes:
        changes = table("Different", "old", "new")
        for change in told.changes:
            changes.add_row(cell(change.fact), cell(change.old or "–"), cell(change.new or "–"))
        screen.line()
        screen.out.print(changes)
    for title, rows in (
        (
            "Old addresses that lead here:",
            [f"{row.status} {row.old}" for row in told.redirects],
        ),
        ("Follow-ups:", [f"{code}: {what} {advice}" for code, what, advice in told.follow_ups]),
        ("In the log:", told.log_lines),
    ):
        if rows:
            screen.line(f"\n{title}")
            for row in rows:
                screen.line(f"  {row}")
    if told.old.html or told.new:
        screen.line()
        for line in _beside(told, screen.out.width):
            screen.line(line)


def _beside(told: Story, width: int) -> Iterator[str]:
    """The old and the new text beside each other, as plain words."""
    column = (width - _GAP) // 2
    sides = [
        _lines(told.old, column),
        _lines(told.new, column) if told.new else ["(not moved)"],
    ]
    yield f"{'OLD':<{column + _GAP}}NEW"
    for number, (old, new) in enumerate(zip_longest(*sides, fillvalue="")):
        if number == _MOST_LINES:
            yield "… (all of it: --html FILE)"
            return
        yield f"{old:<{column + _GAP}}{new}".rstrip()


def _lines(side: Side, width: int) -> list[str]:
    made = [side.address[:width], ""]
    for paragraph in text_lines(side.html):
        made += textwrap.wrap(paragraph, width) or [""]
    return made


def _print(found: ShownObject, screen: Screen) -> None:
    record = found.record
    screen.line(f"in {record.source}")
    shown = {
        "authors": ", ".join(author.name for author in found.authors),
        "terms": ", ".join(f"{term.name} ({term.vocabulary})" for term in found.terms),
        "lead_picture": found.lead_picture.path or found.lead_picture.address
        if found.lead_picture
        else "",
        "parent": f"{found.parent.title} ({found.parent.key})" if found.parent else "",
    }
    for name in record.__struct_fields__:
        if name not in ("source", "extra", "body", "fields", "quiz"):
            value = shown.get(name) or _shown_value(getattr(record, name))
            if value:
                screen.line(f"{name + ':':<18}{value}")
    for name, value in getattr(record, "fields", {}).items():
        screen.line(f"field {name}: {value}")
    for name, values in record.extra.items():
        screen.line(f"not in the model, {name.rpartition('}')[2]}: {'; '.join(values)}")
    if hasattr(record, "body"):
        screen.line(f"\nbody ({record.body.markup}):\n{record.body.text}")
    _quiz(found, screen)
    _thread(found.comments, screen)


def _quiz(found: ShownObject, screen: Screen) -> None:
    """A quiz or a question bank: its settings, then what a student sees, and what a teacher sees besides."""
    record = found.record
    if isinstance(record, Entry) and record.quiz:
        screen.line("")
        for line in text_sheet.settings(record.quiz):
            screen.line(line)
    if found.questions:
        screen.line("\nas a student sees it:")
        for line in text_sheet.student(found.questions):
            screen.line(line)
        screen.line("\nas a teacher sees it:")
        for line in text_sheet.teacher(found.questions):
            screen.line(line)


def _thread(comments: list[Comment], screen: Screen) -> None:
    """Comments, each answer set in under what it answers."""
    if comments:
        screen.line(f"\n{len(comments)} comments:")
    depths: dict[str, int] = {}
    for comment in comments:
        depth = depths.get(comment.parent, -1) + 1
        depths[comment.key] = depth
        lead = "  " * depth
        if comment.published:
            when = f"{comment.published:%Y-%m-%d %H:%M}"
        else:
            when = "no date"
        screen.line(
            f"{lead}{comment.author_name or 'anonymous'}, {when}, {comment.status} ({comment.kind} {comment.key})"
        )
        screen.line("\n".join(f"{lead}  {line}" for line in comment.body.text.splitlines()))


def _shown_value(value: object) -> str:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, tuple):
        return ", ".join(map(str, value))
    if value in (None, "", 0) or isinstance(value, Record):
        return ""
    return str(value)
