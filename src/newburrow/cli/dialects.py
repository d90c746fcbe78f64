"""List the dialects that can be read, print one, or draft a first one for an export in an unknown one."""

from __future__ import annotations

import argparse
from pathlib import Path

from newburrow.cli import listing
from newburrow.cli.parsing import (
    Parser,
    add_limits,
    limits_from,
    refuse_together,
    refuse_unless,
)
from newburrow.cli.screen import Screen
from newburrow.commands import dialects

EXAMPLE = (
    "newburrow dialects reedpost > my-dialect.toml\n"
    "  newburrow dialects --draft-from export.zip > mine.toml"
)


def configure(parser: Parser) -> None:
    """The arguments of `newburrow dialects`."""
    listing.configure(parser, "dialect")
    parser.add_argument(
        "--draft-from",
        type=Path,
        metavar="EXPORT",
        help="print a first dialect for this export",
    )
    add_limits(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Print the list, a dialect, or a draft of one."""
    refuse_together(options, "NAME", "draft_from", "json")
    refuse_unless(options, "draft_from", "limit")
    if options.draft_from:
        drafted = dialects.draft_dialect(options.draft_from, limits_from(options))
        screen.line(drafted.rstrip("\n"))
        return 0
    if options.name:
        screen.line(dialects.dialect_text(options.name).rstrip("\n"))
        return 0
    rows = [
        (dialect.name, dialect.format, dialect.title, dialect.about)
        for dialect in dialects.dialects()
    ]
    return listing.show(
        screen,
        rows,
        "Print one to copy and change: newburrow dialects NAME > my-dialect.toml\n"
        "Use your own with: --dialect my-dialect.toml",
        options.json,
    )
