"""What `newburrow survey --against` prints: two ways of getting the same content, held against each other."""

from __future__ import annotations

import argparse

from msgspec.structs import replace

from newburrow.cli.parsing import request_of
from newburrow.cli.screen import Screen, in_shell, table
from newburrow.commands.compare import Comparison, compare_paths


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Compare two ways of getting the same content, and print what was found."""
    first = request_of(options)
    with screen.progress() as listener:
        found = compare_paths(
            first, replace(first, paths=options.against, dialects=()), listener
        )
    if options.json:
        screen.json("comparison", found)
    else:
        _print(found, screen)
    return 0


def _print(found: Comparison, screen: Screen) -> None:
    ways = table("", "first", "second", numbers=("first", "second"))
    first, second = found.first, found.second
    for name, one, other in (
        ("entries", f"{first.entries:,}", f"{second.entries:,}"),
        ("comments", f"{first.comments:,}", f"{second.comments:,}"),
        ("words of entries in both", f"{first.words:,}", f"{second.words:,}"),
        ("only here", f"{found.only_first:,}", f"{found.only_second:,}"),
        ("seconds to read", f"{first.seconds:.1f}", f"{second.seconds:.1f}"),
    ):
        ways.add_row(name, one, other)
    screen.line(f"first:  {' '.join(first.paths)}\nsecond: {' '.join(second.paths)}\n")
    screen.out.print(ways)
    screen.line(f"\nIn both: {found.same:,} the same, {found.differ:,} different.")
    for fact, number in found.facts.items():
        screen.line(f"  {fact}: differs in {number:,}")
    for title, names in (
        ("Only in the first:", found.in_first),
        ("Only in the second:", found.in_second),
    ):
        if names:
            screen.line(f"\n{title}")
            for entry in names:
                screen.line(f"  {entry.title}  {entry.address}")
    words = ("Both hold as much.", "The first is fuller.", "The second is fuller.")
    screen.line(f"\n{words[found.fuller]} To move what either has:")
    paths = " ".join(in_shell(path) for path in (*first.paths, *second.paths))
    screen.line(f"  newburrow draft {paths} --to HOST --out my-move")
