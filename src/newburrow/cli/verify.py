"""Read the result of a finished move back, and hold it against the old site.

Writes fidelity.csv (one row for each entry) and differences.csv into the folder. Exit status: 0 every difference
is explained; 1 something is not as it was moved; 2 the folder has no finished move.
"""

from __future__ import annotations

import argparse
from pathlib import Path

from newburrow.cli.parsing import Parser, add_json
from newburrow.cli.screen import Screen, cell, in_shell, table
from newburrow.commands.verify import verify_folder
from newburrow.decide.move_folder import MoveFolder
from newburrow.verify.difference import DIFFERENCES, FIDELITY
from newburrow.verify.verified import Verified

EXAMPLE = "newburrow verify my-move"
_SHOWN = 8  # differences on the screen


def configure(parser: Parser) -> None:
    """The arguments of `newburrow verify`."""
    parser.add_argument("folder", type=Path, metavar="FOLDER", help="a move folder")
    add_json(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Verify, and print what was found."""
    with screen.progress() as listener:
        verified = verify_folder(MoveFolder.existing(options.folder), listener, options.jobs)
    if options.json:
        from newburrow.cli.json_forms import of_verified

        screen.json("verify", of_verified(verified))
    else:
        _show(verified, options.folder, screen)
    if verified.is_right:
        return 0
    return 1


def _show(verified: Verified, folder: Path, screen: Screen) -> None:
    screen.line(_verdict(verified))
    counts = table("Kind", "moved", "in the result", numbers=("moved", "in the result"))
    for kind, (moved, found) in verified.counts.items():
        counts.add_row(cell(kind), f"{moved:,}", f"{found:,}")
    screen.line()
    screen.out.print(counts)
    screen.line(
        f"\nFidelity: {verified.fidelity:.2%} of the words, headings, lists, tables, links and pictures of the old "
        f"texts\n({verified.as_before:,} of {verified.entries:,} entries have all of theirs; see {FIDELITY})"
    )
    explained = sum(verified.explained.values())
    screen.line(
        f"Differences: {explained:,} explained, {sum(verified.unexplained.values()):,} not"
    )
    for difference in verified.first[:_SHOWN]:
        name = difference.title or difference.address or difference.object
        screen.line(f"\n  {difference.object} {name}: {difference.fact}")
        if difference.address and difference.address != name:
            screen.line(f"    {difference.address}")
        screen.line(f"    moved: {difference.expected or 'nothing'}")
        screen.line(f"    found: {difference.found or 'nothing'}")
    if len(verified.first) > _SHOWN:
        screen.line(f"\n  More are in {DIFFERENCES}.")
    screen.line()
    if verified.is_right:
        screen.line(
            f"Next: work off {in_shell(folder / 'follow-ups.csv')}, then import {in_shell(folder / 'new')}."
        )
    else:
        screen.line(f"Next: newburrow move {in_shell(folder)}    writes the result again")


def _verdict(verified: Verified) -> str:
    if verified.is_right:
        return "The result is what was moved: every difference from the old site is explained."
    number = sum(verified.unexplained.values())
    if number == 1:
        return "The result is not what was moved: 1 difference is not explained."
    return f"The result is not what was moved: {number:,} differences are not explained."
