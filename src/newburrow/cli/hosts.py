"""List the hosts that can be moved to, or print the profile of one."""

from __future__ import annotations

import argparse

from newburrow.cli import listing
from newburrow.cli.parsing import Parser
from newburrow.cli.screen import Screen
from newburrow.hosts import loader

EXAMPLE = "newburrow hosts lanternlog > my-host.toml"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow hosts`."""
    listing.configure(parser, "host profile")


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Print the list or the profile."""
    if options.name:
        path = loader.SHELF.path_of(options.name)
    else:
        path = None
    rows = [
        (host.name, host.format, host.title, host.about)
        for host in map(loader.load, loader.SHELF.names())
    ]
    return listing.show(
        options,
        screen,
        rows,
        path,
        "One whole, to copy and change: newburrow hosts NAME > my-host.toml\nYours is used with: --to my-host.toml",
    )
