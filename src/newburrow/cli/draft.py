"""Make a move folder with every decision filled in. Look through it, change what you like, then move."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from newburrow.cli.parsing import (
    Parser,
    add_holds,
    add_json,
    add_paths,
    add_reading,
    request_of,
)
from newburrow.cli.screen import Screen, in_shell
from newburrow.commands.draft import draft_move
from newburrow.core.problem import refusal
from newburrow.decide.draft import DraftRequest
from newburrow.decide.likeness import UNFIT
from newburrow.decide.move_folder import AUTHORS, ENTRIES, MOVE, TERMS

EXAMPLE = "newburrow draft export.zip --to lanternlog --out my-move"

_FILES = {
    MOVE: "what moves, as what, to which addresses",
    AUTHORS: "the new name of each author; who may be the same person",
    TERMS: "which terms are kept, renamed, merged, moved, nested, pages, or dropped",
    ENTRIES: "each entry: whether it moves, as what, under which slug, date, title and author",
    UNFIT: "what did not fit of the earlier move, and why",
}


def configure(parser: Parser) -> None:
    """The arguments of `newburrow draft`."""
    add_paths(parser)
    parser.add_argument(
        "--to",
        default="",
        metavar="HOST",
        help="the new host: a name (`newburrow hosts`) or a file",
    )
    parser.add_argument(
        "--out", required=True, type=Path, metavar="FOLDER", help="the move folder to make"
    )
    add_reading(parser)
    parser.add_argument(
        "--like",
        type=Path,
        metavar="FOLDER",
        help="take over the decisions of an earlier move, as far as they fit",
    )
    parser.add_argument(
        "--entries",
        action="store_true",
        help="also write a table of all entries, to change many of them in a spreadsheet",
    )
    add_holds(parser)
    add_json(parser)
    parser.add_argument(
        "--ask",
        action="store_true",
        help="ask the open questions one after another (on a terminal)",
    )


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Draft a move folder, and print where the decisions are."""
    if not options.to and not options.like:
        raise refusal(
            "usage",
            "The new host is missing.",
            "Name it with --to HOST, or an earlier move with --like FOLDER.",
        )
    plan = DraftRequest(
        request_of(options),
        options.to,
        options.entries,
        options.holds,
        options.like,
    )
    if options.ask:
        if not sys.stdin.isatty():
            advice = "Leave it out, and change move.toml instead."
            raise refusal("usage", "--ask needs a terminal to ask on.", advice)
        folder = draft_move(plan, options.out, ask=screen.ask, jobs=options.jobs)
    else:
        with screen.progress() as listener:
            folder = draft_move(plan, options.out, listener, jobs=options.jobs)
    files = {name: words for name, words in _FILES.items() if folder.has(name)}
    if options.json:
        from newburrow.cli.small_forms import DraftForm

        screen.json("draft", DraftForm(str(folder.path), list(files)))
        return 0
    screen.line(f"The decisions are in {folder.path}:")
    for name, words in files.items():
        screen.line(f"  {name:<13} {words}")
    screen.line(f"Next: look through them, then run: newburrow move {in_shell(folder.path)}")
    return 0
