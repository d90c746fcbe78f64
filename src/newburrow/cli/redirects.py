"""Write the redirects of a finished move for one server, from redirects/addresses.csv in the move folder."""

from __future__ import annotations

import argparse
from pathlib import Path

from newburrow import registry
from newburrow.cli.parsing import Parser
from newburrow.cli.screen import Screen
from newburrow.folder import MoveFolder
from newburrow.moving import rewrite_redirects

EXAMPLE = "newburrow redirects my-move --for nginx"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow redirects`."""
    parser.add_argument("folder", type=Path, metavar="FOLDER", help="a move folder")
    parser.add_argument(
        "--for",
        required=True,
        dest="server",
        metavar="SERVER",
        help=f"the server: {', '.join(registry.names(registry.SERVERS))}",
    )


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Write, and say what to do with the files."""
    folder = MoveFolder.existing(options.folder)
    counts, told = rewrite_redirects(folder, options.server)
    screen.line(
        f"{counts['unchanged']:,} old addresses stay as they are, {counts['redirected']:,} are redirected, "
        f"{counts['gone']:,} are gone."
    )
    screen.line(f"Written to {folder.path / 'redirects' / options.server}.")
    screen.line(told)
    return 0
