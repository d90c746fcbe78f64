"""Convert an export into what the new host imports, with redirects, ledger, follow-ups and report.

Give a move folder (from `newburrow draft`), or an export with --to and --out to move with the proposed
decisions. Exit status: 0 everything is accounted for; 1 some objects failed, and are listed; 2 nothing was written.
"""

from __future__ import annotations

import argparse
from pathlib import Path

from newburrow.cli import summary
from newburrow.cli.parsing import (
    Parser,
    add_holds,
    add_json,
    add_reading,
    request_of,
    says_how_to_read,
)
from newburrow.cli.screen import Screen
from newburrow.commands.move import move_folder, move_paths, rehearse_paths
from newburrow.commands.try_items import Tried, try_items
from newburrow.core.problem import refusal
from newburrow.decide.draft import DraftRequest
from newburrow.decide.move_folder import MOVE, MoveFolder
from newburrow.report.outcome import Outcome

EXAMPLE = "newburrow move my-move\n  newburrow move export.zip --to lanternlog --out my-move"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow move`."""
    parser.add_argument(
        "paths",
        nargs="+",
        type=Path,
        metavar="FOLDER | PATH",
        help="a move folder, or an export",
    )
    parser.add_argument(
        "--to",
        default="",
        metavar="HOST",
        help="the new host: a name (`newburrow hosts`) or a file",
    )
    parser.add_argument("--out", type=Path, metavar="FOLDER", help="the move folder to make")
    add_reading(parser)
    add_holds(parser)
    parser.add_argument(
        "--rehearse",
        action="store_true",
        help="do everything except write the result, and say what it would be",
    )
    parser.add_argument(
        "--only",
        action="append",
        default=[],
        metavar="ITEM",
        help="of a move folder: write this item alone (id, slug, address, part of a title) into try/, to try it",
    )
    add_json(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Run the move, and print its outcome."""
    if options.only:
        return _try(options, screen)
    outcome = _outcome(options, screen)
    if options.json:
        from newburrow.cli.json_forms import of_move

        screen.json("move", of_move(outcome))
    else:
        summary.show(outcome, screen)
    if outcome.complete:
        return 0
    return 1


def _try(options: argparse.Namespace, screen: Screen) -> int:
    """Write a few items, and print where they are and what to look at."""
    folder: Path = options.paths[0]
    if len(options.paths) > 1 or options.to or options.out or options.rehearse:
        raise refusal(
            "usage",
            "--only writes items of one move folder.",
            "Make the folder with `newburrow draft`, then: newburrow move FOLDER --only ITEM",
        )
    with screen.progress() as listener:
        tried = try_items(
            MoveFolder.existing(folder), options.only, listener, options.jobs or 1
        )
    if options.json:
        from newburrow.cli.json_forms import of_try

        screen.json("try", of_try(tried))
    else:
        _show_tried(tried, screen)
    if tried.not_written:
        return 1
    return 0


def _show_tried(tried: Tried, screen: Screen) -> None:
    """What was written to try it, and what to look at there."""
    for entry in tried.entries:
        screen.line(f"{entry.title}\n  {entry.new}")
    for left in tried.not_written:
        screen.error(
            f"{left.title or 'An entry without a title'} was not written: {left.reason}"
        )
    for problem in tried.follow_ups:
        screen.line(f"  {problem.code}: {problem.message}")
    if tried.entries:
        many = "file" if tried.files == 1 else "files"
        screen.line(f"\nWith {tried.files:,} {many} in {tried.out}: import that, and look.")
        screen.line("new/, the redirects, the ledger and the follow-ups are as they were.")


def _outcome(options: argparse.Namespace, screen: Screen) -> Outcome:
    first: Path = options.paths[0]
    with screen.progress() as listener:
        if len(options.paths) == 1 and first.is_dir() and (first / MOVE).is_file():
            if options.to or options.out or options.holds or says_how_to_read(options):
                raise refusal(
                    "usage",
                    "A move folder says itself where to and how.",
                    f"Leave out all options that say what to read and where to, and change {first / MOVE} instead.",
                )
            return move_folder(
                MoveFolder.existing(first), listener, options.rehearse, options.jobs
            )
        if not options.to:
            if first.exists():
                mistake = f"{str(first)!r} is not a move folder, so --to is needed"
            else:
                mistake = f"There is no file or folder {str(first)!r}"
            raise refusal(
                "usage",
                f"{mistake}.",
                "To move an export: newburrow move PATH --to HOST --out FOLDER. The hosts: newburrow hosts.",
            )
        plan = DraftRequest(request_of(options), options.to, holds=options.holds)
        if options.rehearse:
            return rehearse_paths(plan, listener, options.jobs)
        if not options.out:
            raise refusal(
                "usage",
                "--out is missing: the folder that the move is to be made in.",
                "For example: --out my-move",
            )
        return move_paths(plan, options.out, listener, options.jobs)
