"""List the dialects that can be read, or print one."""

from __future__ import annotations

import argparse

from newburrow.cli import listing
from newburrow.cli.parsing import Parser
from newburrow.cli.screen import Screen
from newburrow.dialects import loader

EXAMPLE = "newburrow dialects reedpost > my-dialect.toml"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow dialects`."""
    listing.configure(parser, "dialect")


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Print the list or the dialect."""
    path = loader.SHELF.path_of(options.name) if options.name else None
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
