"""Argument parsing with messages that help: a wrong word is answered with the nearest right one."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

from newburrow.core import url
from newburrow.core.problem import refusal
from newburrow.core.suggestions import nearest
from newburrow.intake.budget import ReadingLimits, limits_of

if TYPE_CHECKING:
    from newburrow.formats.exports.export import ExportRequest

MOST_JOBS = 256
_NAMES = {"server": "for"}  # options whose names are words of Python
USAGE = 2  # exit status: wrong usage or unreadable input


class Parser(argparse.ArgumentParser):
    """An argument parser for one command."""

    def __init__(self, command: str, description: str, example: str) -> None:
        super().__init__(
            prog=f"newburrow {command}",
            description=description,
            allow_abbrev=False,
            formatter_class=argparse.RawDescriptionHelpFormatter,
            epilog=f"For example:\n  {example}",
        )
        self.command = command

    def parse(self, arguments: Sequence[str]) -> argparse.Namespace:
        """The options, or a message with the nearest right one and exit status 2."""
        found, unparsed = self.parse_known_args(arguments)
        if unparsed:
            options = [
                option
                for action in self._actions
                for option in action.option_strings
                if option[:2] == "--"
            ]
            wrong = next((word for word in unparsed if word.startswith("-")), unparsed[0])
            near = nearest(wrong.partition("=")[0], options)
            self.error(
                f"there is no option {wrong!r}."
                + (f" Did you mean {' or '.join(near)}?" if near else "")
                if wrong.startswith("-")
                else f"{wrong!r} is one argument too many."
            )
        return found

    def error(self, message: str) -> NoReturn:
        """Print what is wrong and how to get help, and exit with status 2."""
        text = message.replace("the following arguments are required:", "this is missing:")
        print(
            f"newburrow {self.command}: {text}\n{self.format_usage().strip()}\nMore: newburrow {self.command} --help",
            file=sys.stderr,
        )
        raise SystemExit(USAGE)


def add_paths(parser: argparse.ArgumentParser) -> None:
    """Add the exports that a command reads."""
    parser.add_argument(
        "paths",
        nargs="+",
        type=Path,
        metavar="PATH",
        help="an export: a file, a folder or a zip",
    )


def add_reading(parser: argparse.ArgumentParser) -> None:
    """Add the options that say how exports are to be read."""
    parser.add_argument(
        "--dialect",
        action="append",
        default=[],
        metavar="D",
        help="a dialect, by name or as a file, for all exports, or one for each in their order "
        "(default: recognised by the content)",
    )
    parser.add_argument(
        "--site",
        default="",
        type=_address,
        metavar="ADDRESS",
        help="the address of the old site, if an export does not state it",
    )

    parser.add_argument(
        "--content",
        action="append",
        default=[],
        metavar="PATTERN",
        help="files that are content though they lie among uploaded ones, such as 'old/*.xml'",
    )
    add_limits(parser)


def add_json(parser: argparse.ArgumentParser) -> None:
    """Add the option that prints a result for a program."""
    parser.add_argument(
        "--json", action="store_true", help="print one JSON object instead of text"
    )


def refuse_together(options: argparse.Namespace, *names: str) -> None:
    """Refuse options of which each would make the others do nothing. Raises BurrowError where several are given.

    `names` are as they are in `options`; a name in capitals is that of an argument.
    """
    given = [_shown(name) for name in names if getattr(options, name.lower())]
    if len(given) > 1:
        message = f"{given[0]} and {given[1]} cannot be used together."
        raise refusal("usage", message, "Leave one of them out.")


def _shown(name: str) -> str:
    """An option or an argument as a person writes it, by its name in `options`."""
    if name.isupper():
        return name
    return f"--{_NAMES.get(name, name).replace('_', '-')}"


def refuse_unless(options: argparse.Namespace, needed: str, *names: str) -> None:
    """Refuse options that do nothing without another one. Raises BurrowError where one stands without it."""
    for name in names:
        if getattr(options, name) and not getattr(options, needed):
            raise refusal(
                "usage",
                f"{_shown(name)} does nothing without {_shown(needed)}.",
                "Give both, or neither.",
            )


def add_limits(parser: argparse.ArgumentParser) -> None:
    """Add the option that lets an export cost more than usual."""
    parser.add_argument(
        "--limit",
        action="append",
        default=[],
        metavar="NAME=NUMBER",
        help="let a trusted export cost more: unpacked=20GB, files=1000000, depth=8 or seconds=3000",
    )


def limits_from(options: argparse.Namespace) -> ReadingLimits:
    """The limits, as the command line raises them. Raises BurrowError where one is wrong."""
    try:
        return limits_of(options.limit)
    except ValueError as error:
        raise refusal("usage", f"{error}.", "See `newburrow survey --help`.") from None


def request_of(options: argparse.Namespace) -> ExportRequest:
    """The exports to read, as the command line says it. Raises BurrowError where a limit is wrong."""
    from newburrow.formats.exports.export import ExportRequest  # heavy: not all commands read

    return ExportRequest(
        options.paths, options.dialect, options.site, options.content, limits_from(options)
    )


def says_how_to_read(options: argparse.Namespace) -> bool:
    """Whether one of the options is there that say how exports are to be read."""
    return bool(options.dialect or options.site or options.content or options.limit)


def _address(word: str) -> str:
    if word and not url.site_key(word):
        raise argparse.ArgumentTypeError(
            f"{word!r} is not a web address with scheme and host, such as https://old.example/"
        )
    return word


def add_holds(parser: argparse.ArgumentParser) -> None:
    """Add the options that say what the new host already holds."""
    parser.add_argument(
        "--holds",
        action="append",
        default=[],
        type=Path,
        metavar="PATH",
        help="what the new site has already: its own export, or a list of its addresses",
    )


def _jobs(word: str) -> int:
    try:
        jobs = int(word)
    except ValueError:
        jobs = 0
    if not 1 <= jobs <= MOST_JOBS:
        raise argparse.ArgumentTypeError(f"{word!r} is not a number from 1 to {MOST_JOBS}")
    return jobs


def add_common(parser: argparse.ArgumentParser) -> None:
    """The options that every command has."""
    group = parser.add_argument_group("options of all commands")
    group.add_argument(
        "--quiet", action="store_true", help="no progress and no messages but errors"
    )
    group.add_argument(
        "--jobs",
        type=_jobs,
        metavar="N",
        help="how many processes to use (default: the cores that this process may use)",
    )
    group.add_argument("--log", metavar="FILE", help="write a log, for a report of a fault")
    group.add_argument(
        "--log-level",
        choices=("debug", "info", "warning", "error"),
        default="info",
        help="how much is logged (info)",
    )
