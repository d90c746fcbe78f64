"""What `hosts` and `dialects` share: a list of what ships, or one file whole."""

from __future__ import annotations

from newburrow.cli.parsing import Parser, add_json
from newburrow.cli.screen import Screen, cell, table


def configure(parser: Parser, subject: str) -> None:
    """The arguments of both commands."""
    parser.add_argument(
        "name",
        nargs="?",
        metavar="NAME",
        help=f"print this {subject}, to copy and change",
    )
    add_json(parser)


def show(
    screen: Screen, rows: list[tuple[str, str, str, str]], hint: str, as_json: bool
) -> int:
    """Print rows of name, format, title and what it is, then a hint."""
    if as_json:
        from newburrow.cli.small_forms import ListForm, Shipped

        screen.json("list", ListForm([Shipped(*row) for row in rows]))
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
