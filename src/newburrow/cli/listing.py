"""What `hosts` and `dialects` share: a list of what ships, or one file whole."""

from __future__ import annotations

import argparse
from pathlib import Path

from newburrow.cli.parsing import Parser
from newburrow.cli.screen import Screen, cell, table


def configure(parser: Parser, what: str) -> None:
    """The argument of both commands."""
    parser.add_argument(
        "name", nargs="?", metavar="NAME", help=f"print this {what} whole, to copy and change"
    )


def show(
    options: argparse.Namespace,
    screen: Screen,
    rows: list[tuple[str, str, str, str]],
    path: Path | None,
    hint: str,
) -> int:
    """Print the file at `path`, or the rows of name, format, title and what it is."""
    if path:
        screen.line(path.read_text("utf-8").rstrip("\n"))
        return 0
    shown = table("Name", "Format", "What it is")
    for name, format_, title, about in rows:
        shown.add_row(
            cell(name),
            cell(format_),
            cell(title) + (f"\n[dim]{cell(about)}[/dim]" if about else ""),
        )
    screen.out.print(shown)
    screen.line(f"\n{hint}")
    return 0
