"""Print all of one item of an export: its fields, its body, its comments, and its place in the file.

ITEM is an id, a slug, an address, or a part of a title.
"""

from __future__ import annotations

import argparse
from datetime import datetime

from newburrow.cli.parsing import Parser, add_paths, add_reading, request_of
from newburrow.cli.screen import Screen
from newburrow.commands.show import ShownObject, find
from newburrow.convert.quiz import text_sheet
from newburrow.model import Comment, Entry, Record

EXAMPLE = "newburrow show export.zip open-day"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow show`."""
    add_paths(parser)
    parser.add_argument(
        "item", metavar="ITEM", help="an id, a slug, an address, or a part of a title"
    )
    add_reading(parser)
    parser.add_argument("--json", action="store_true", help="print one JSON object")


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Find and print."""
    with screen.progress() as listener:
        found = find(request_of(options), options.item, listener)
    if options.json:
        screen.json(found)
    else:
        _print(found, screen)
    return 0


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
