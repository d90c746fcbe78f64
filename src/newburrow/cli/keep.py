"""Keep everything in an export in a bag (RFC 8493), whose digests are checked when it is read again.

The bag is a folder with the records of the content model as JSON Lines, and the files. It can be surveyed and moved
like any export, even when the old host is gone.
"""

from __future__ import annotations

import argparse
from pathlib import Path

from newburrow.cli.parsing import Parser, add_json, add_paths, add_reading, request_of
from newburrow.cli.screen import Screen, in_shell
from newburrow.commands.keep import keep

EXAMPLE = "newburrow keep export.zip --out kept"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow keep`."""
    add_paths(parser)
    parser.add_argument(
        "--out", required=True, type=Path, metavar="BAG", help="the folder to make"
    )
    add_json(parser)
    add_reading(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Write the bag, and print how much it holds."""
    with screen.progress() as listener:
        counts = keep(request_of(options), options.out, listener)
    if options.json:
        from newburrow.cli.small_forms import KeepForm

        screen.json("keep", KeepForm(str(options.out), counts))
        return 0
    numbers = ", ".join(f"{number:,} {name}" for name, number in counts.items() if number)
    screen.line(f"Kept in {options.out}: {numbers}.")
    screen.line(f"Next: newburrow survey {in_shell(options.out)}")
    return 0
