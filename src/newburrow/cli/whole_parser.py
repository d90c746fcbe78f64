"""All commands in one parser, as pages, the manual and the completion of shells are made from."""

from __future__ import annotations

import argparse
import importlib
from pathlib import Path
from typing import Any

from newburrow.cli.parsing import Parser, add_common
from newburrow.core import plugins
from newburrow.dialects.loader import DIALECTS
from newburrow.hosts.loader import PROFILES

SHELLS = ("bash", "zsh", "tcsh", "fish")


def whole_parser(commands: dict[str, str]) -> argparse.ArgumentParser:
    """A parser of all commands.

    `commands` says of each what it does, as the overview has it. The command line itself makes the parser of one
    command alone, which takes a tenth of the time.
    """
    parser = argparse.ArgumentParser(
        prog="newburrow",
        description="Moves a blog, a wiki or a course to another host, with redirects from every old address.",
        allow_abbrev=False,
    )
    parser.add_argument("--version", action="store_true", help="print the version")
    parser.add_argument(
        "--completion", choices=SHELLS, help="print a script that completes words in this shell"
    )
    made: Any = _made
    found = parser.add_subparsers(parser_class=made, metavar="COMMAND", title="commands")
    for name, words in commands.items():
        module: Any = importlib.import_module(f"newburrow.cli.{name}")
        of_command: Any = found.add_parser(
            name, help=words, description=module.__doc__, example=module.EXAMPLE
        )
        module.configure(of_command)
        add_common(of_command)
    return parser


def _made(**words: Any) -> Parser:
    """The parser of one command, from what `add_parser` was given."""
    command = str(words["prog"]).rpartition(" ")[2]
    return Parser(command, words["description"] or "", words["example"])


def parsers_in(parser: argparse.ArgumentParser) -> dict[str, Parser]:
    """The parsers of the commands, by name."""
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            return dict(action.choices)
    return {}


def completion(shell: str, commands: dict[str, str]) -> str:
    """The script that completes commands, options, names and files; `shell` is one of SHELLS."""
    import shtab

    parser = whole_parser(commands)
    names = {
        "server": plugins.names(plugins.SERVERS),
        "to": tuple(PROFILES.names()),
        "dialect": tuple(DIALECTS.names()),
    }
    for of_command in parsers_in(parser).values():
        for action in of_command._actions:
            if action.dest in names:
                action.choices = names[action.dest]
            elif action.type is Path:
                action.complete = shtab.FILE  # type: ignore[attr-defined]
    return str(shtab.complete(parser, shell=shell))
