"""The redirects of a finished move: described in words, written for a server, followed on a running one."""

from __future__ import annotations

import shlex
from collections import Counter
from collections.abc import Callable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import plugins, url
from newburrow.core.problem import refusal
from newburrow.core.progress import Listener, nobody
from newburrow.decide.move_folder import MoveFolder
from newburrow.redirects import server_check, server_files, table
from newburrow.redirects.redirect_map import RedirectMap
from newburrow.redirects.rules import learning
from newburrow.redirects.server_check import FailedAnswer, Sites
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from newburrow.store.redirects.title_index import TitleIndex

ADDRESSES, LEDGER = "redirects/addresses.csv", "ledger.csv"
_NAMES = {UNCHANGED: "unchanged", REDIRECTED: "redirected", GONE: "gone"}


class RuleFacts(Struct, frozen=True):
    """One rule, for a person."""

    old: str
    new: str
    words: str
    addresses: int


class Summary(Struct, frozen=True):
    """What the redirects of a move come to."""

    counts: dict[str, int]  # unchanged, redirected, gone -> old addresses
    rules: list[RuleFacts]
    exceptions: int  # lines besides the rules
    reasons: dict[str, int]  # why an old address is gone -> addresses
    # host of the old addresses, without www -> addresses; the first is the one the rules are for
    hosts: dict[str, int]


def answers_of(folder: MoveFolder) -> Callable[[], Iterator[OldAddress]]:
    """A function that reads the answers of a move folder.

    Raises BurrowError if there are none yet, or two for one address.
    """
    if not folder.has(ADDRESSES):
        message = f"The folder has no {ADDRESSES} yet."
        raise refusal(
            "not-moved", message, f"Run `newburrow move {shlex.quote(str(folder.path))}` first."
        )
    table.check(folder.path / ADDRESSES)
    return lambda: table.read(folder.path / ADDRESSES)


def summary(folder: MoveFolder) -> Summary:
    """Count what is kept, redirected and gone in a finished move, and describe the rules in words.

    Reads `redirects/addresses.csv`, which a person may have changed. Raises BurrowError if the move is
    not finished or an address has two answers.
    """
    answers = answers_of(folder)
    counts, reasons, hosts = dict.fromkeys(_NAMES.values(), 0), dict[str, int](), Counter[str]()
    for row in answers():
        counts[_NAMES[row.status]] += 1
        hosts[url.key(row.old).partition("/")[0]] += 1
        if row.status == GONE:
            reasons[row.why] = reasons.get(row.why, 0) + 1
    redirects = RedirectMap.learnt(answers)
    numbers = learning.counted(redirects.rules, redirects.site, answers)
    rules = [
        RuleFacts(rule.old_pattern(), rule.new_pattern(), learning.in_words(rule), number)
        for rule, number in zip(redirects.rules, numbers, strict=True)
    ]
    exact = sum(1 for _row in redirects.exact())
    ordered = sorted(
        hosts.items(), key=lambda item: (item[0] != redirects.site, -item[1], item[0])
    )
    return Summary(counts, rules, exact, dict(sorted(reasons.items())), dict(ordered))


def write(folder: MoveFolder, server: str) -> str:
    """Write the redirects of a finished move again, for one server.

    The files go to `redirects/SERVER/`. Gives the instructions for installing them. Raises BurrowError
    if there is no server of that name, or the move is not finished.
    """
    plugins.get(plugins.SERVERS, server)
    with folder.locked():
        return _written(folder, server)


def _written(folder: MoveFolder, server: str) -> str:
    choice = replace(folder.decisions().redirects, servers=(server,))
    return server_files.write(choice, folder.open, answers_of(folder))[server].guidance


def follow(
    folder: MoveFolder, sites: Sites, listener: Listener = nobody
) -> Iterator[FailedAnswer]:
    """Ask a running server for every old address, and yield those with a wrong answer.

    An answer is wrong if its status, its target or the number of steps differs from the map, or if
    the page at the end does not contain the title of the entry. Raises BurrowError if nobody answers.
    """
    answers = answers_of(folder)
    total = sum(1 for _row in answers())
    sites = replace(sites, permanent=folder.decisions().redirects.status)
    return server_check.follow(
        answers(), sites, TitleIndex(folder.path / LEDGER), listener, total
    )
