"""Summarise the redirects of a finished move, write them for a server, or check them on a running one.

With --follow the exit status is 0 if every address is answered as it should be, and 1 if some are not.
"""

from __future__ import annotations

import argparse
from collections import Counter
from pathlib import Path

from newburrow.cli.parsing import Parser, add_json, refuse_together, refuse_unless
from newburrow.cli.screen import Screen, cell, in_shell, table
from newburrow.commands import redirects
from newburrow.commands.redirects import FOLLOWED
from newburrow.core import plugins
from newburrow.decide.move_folder import MoveFolder
from newburrow.redirects.followed_address import NOT_UP, OUTCOMES, RIGHT, FollowedAddress, Sites

EXAMPLE = (
    "newburrow redirects my-move\n  newburrow redirects my-move --for nginx\n"
    "  newburrow redirects my-move --follow http://127.0.0.1:8080"
)
_SHOWN = 5  # of each outcome; more are counted


def configure(parser: Parser) -> None:
    """The arguments of `newburrow redirects`."""
    parser.add_argument("folder", type=Path, metavar="FOLDER", help="a move folder")
    servers = ", ".join(plugins.names(plugins.SERVERS))
    parser.add_argument(
        "--for",
        default="",
        dest="server",
        metavar="SERVER",
        help=f"write the redirects for this server: {servers}",
    )
    parser.add_argument(
        "--follow",
        default="",
        metavar="BASE",
        help="ask the server at this address for each old address",
    )
    parser.add_argument(
        "--advise",
        action="store_true",
        help="compare the permalink patterns that the new host can have",
    )
    parser.add_argument(
        "--new-at",
        default="",
        metavar="BASE",
        help="where the new site answers for now",
    )
    parser.add_argument(
        "--any-certificate",
        action="store_true",
        help="do not check the certificates of https when following",
    )
    add_json(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Print the rules, write the files of servers, or check a running server."""
    refuse_together(options, "advise", "follow", "server")
    refuse_unless(options, "follow", "new_at", "any_certificate")
    folder = MoveFolder.existing(options.folder)
    if options.advise:
        from newburrow.cli import advice  # heavy: it plans a move

        return advice.run(folder, screen, options.json)
    if options.follow:
        sites = Sites(
            options.follow, options.new_at, checks_certificates=not options.any_certificate
        )
        return _follow(folder, sites, screen, options.json)
    found, guidance = redirects.summary(folder, options.server)
    if options.json:
        screen.json("redirects", found)
        return 0
    _tell(found, screen)
    if guidance:
        screen.line(f"\nWritten to {folder.path / 'redirects' / options.server}.")
        screen.line(guidance)
    else:
        screen.line(
            f"\nTo write the redirects for a server: newburrow redirects {in_shell(folder.path)} --for SERVER"
        )
    screen.line(
        f"To check them on a running server: newburrow redirects {in_shell(folder.path)} --follow http://ITS-ADDRESS"
    )
    return 0


def _tell(found: redirects.Summary, screen: Screen) -> None:
    counts = found.counts
    screen.line(
        f"{counts['unchanged']:,} old addresses stay as they are, {counts['redirected']:,} are redirected, "
        f"{counts['gone']:,} are gone."
    )
    for why, number in ((reason.why, reason.addresses) for reason in found.reasons):
        screen.line(f"  gone: {number:,} because {why or 'nothing is there any more'}")
    _tell_hosts(found.hosts, screen)
    _tell_rules(found, screen)
    if found.lowering:
        servers = ", ".join(found.lowering.servers)
        screen.line(
            f"\nServers whose rules can convert to lowercase ({servers})\n"
            f"need {found.lowering.rules:,} rules and {found.lowering.exceptions:,} addresses listed one by one."
        )


def _tell_rules(found: redirects.Summary, screen: Screen) -> None:
    if not found.rules:
        screen.line(
            f"No rule covers several of them; {found.exceptions:,} are listed one by one."
        )
        return
    screen.line(
        f"{len(found.rules)} rules and {found.exceptions:,} addresses listed one by one before them:\n"
    )
    shown = table("addresses", "old", "new", "what changes", numbers=("addresses",))
    for rule in found.rules:
        shown.add_row(f"{rule.addresses:,}", cell(rule.old), cell(rule.new), cell(rule.words))
    screen.out.print(shown)


def _tell_hosts(hosts: dict[str, int], screen: Screen) -> None:
    """Which names the old server has to answer for."""
    names = list(hosts)
    if names:
        if "." in names[0] and ":" not in names[0]:
            www = f" and www.{names[0]}"
        else:
            www = ""
        screen.line(
            f"They are on {names[0]}: make {names[0]}{www} answer them, by http and https."
        )
    for name in names[1:]:
        screen.line(
            f"  {hosts[name]:,} are on {name}: its server must answer them; they have files of their own."
        )


def _follow(folder: MoveFolder, sites: Sites, screen: Screen, as_json: bool) -> int:
    counts: Counter[str] = Counter()
    examples: dict[str, list[FollowedAddress]] = {}
    with screen.progress() as listener:
        for address in redirects.follow(folder, sites, listener):
            counts[address.outcome] += 1
            kept = examples.setdefault(address.outcome, [])
            if address.outcome != RIGHT and len(kept) < _SHOWN:
                kept.append(address)
    wrong = sum(number for outcome, number in counts.items() if outcome not in (RIGHT, NOT_UP))
    if as_json:
        from newburrow.cli.json_forms import of_followed

        screen.json("follow", of_followed(counts, examples))
        if wrong:
            return 1
        return 0
    if not wrong and not counts[NOT_UP]:
        screen.line(
            "Every old address is answered as the map says, in one step, and the right page is there."
        )
    else:
        _tell_followed(counts, examples, screen)
    screen.line(f"All answers: {folder.path / FOLLOWED}")
    if wrong:
        return 1
    return 0


def _tell_followed(
    counts: Counter[str], examples: dict[str, list[FollowedAddress]], screen: Screen
) -> None:
    for outcome, words in OUTCOMES.items():
        if not counts[outcome]:
            continue
        screen.line(f"{counts[outcome]:,} {words}.")
        if outcome == RIGHT:
            continue
        shown = table("asked for", "wanted", "found")
        for address in examples[outcome]:
            if address.asked not in address.old:
                asked = address.asked
            else:
                asked = address.old
            shown.add_row(cell(asked), cell(address.wanted), cell(address.found))
        screen.out.print(shown)
        if counts[outcome] > _SHOWN:
            screen.line(f"and {counts[outcome] - _SHOWN:,} more.")
        screen.line()
