"""List the hosts that you can move to, or print the profile of one."""

from __future__ import annotations

import argparse

from newburrow.cli import listing
from newburrow.cli.parsing import Parser, refuse_together
from newburrow.cli.screen import Screen
from newburrow.commands import hosts

EXAMPLE = "newburrow hosts lanternlog > my-host.toml"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow hosts`."""
    listing.configure(parser, "host profile")


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Print the list or the profile."""
    refuse_together(options, "NAME", "json")
    if options.name:
        screen.line(hosts.host_text(options.name).rstrip("\n"))
        return 0
    rows = [(host.name, host.format, host.title, host.about) for host in hosts.hosts()]
    return listing.show(
        screen,
        rows,
        "Print one to copy and change: newburrow hosts NAME > my-host.toml\n"
        "Use your own with: --to my-host.toml",
        options.json,
    )
