"""List the dialects that can be read, print one, or draft a first one from an export in an unknown one."""

from __future__ import annotations

import argparse
from pathlib import Path

from newburrow.assess.dialect_draft.drafting import draft_dialect
from newburrow.cli import listing
from newburrow.cli.parsing import Parser
from newburrow.cli.screen import Screen
from newburrow.dialects import loader

EXAMPLE = "newburrow dialects reedpost > my-dialect.toml\n  newburrow dialects --draft-from export.zip > mine.toml"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow dialects`."""
    listing.configure(parser, "dialect")
    parser.add_argument(
        "--draft-from",
        type=Path,
        metavar="EXPORT",
        help="print a first dialect for this export",
    )


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Print the list or the dialect."""
    if options.draft_from:
        screen.line(draft_dialect(options.draft_from).rstrip("\n"))
        return 0
    if options.name:
        path = loader.SHELF.path_of(options.name)
    else:
        path = None
    rows = [
        (dialect.name, dialect.format, dialect.title, dialect.about)
        for dialect in map(loader.load, loader.SHELF.names())
    ]
    return listing.show(
        options,
        screen,
        rows,
        path,
        "One whole, to copy and change: newburrow dialects NAME > my-dialect.toml\n"
        "Yours is used with: --dialect my-dialect.toml",
    )
