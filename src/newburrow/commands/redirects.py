"""The redirects of a finished move: described in words, written for a server, followed on a running one."""

from __future__ import annotations

import shlex
from collections import Counter
from collections.abc import Callable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from newburrow.core import csvfile, plugins
from newburrow.core.problem import refusal
from newburrow.core.progress import Listener, nobody
from newburrow.decide.move_folder import MoveFolder
from newburrow.hosts import loader as hosts
from newburrow.hosts.archives import NewArchives
from newburrow.redirects import server_files, table
from newburrow.redirects.followed_address import FollowedAddress, Sites
from newburrow.redirects.redirect_map import RedirectMaps
from newburrow.redirects.rules import learning
from newburrow.redirects.rules.rule_words import in_words
from newburrow.store.journal.rows import GONE, REDIRECTED, UNCHANGED, OldAddress
from newburrow.store.redirects.spooled_answers import SpooledAnswers
from newburrow.store.redirects.title_index import TitleIndex

ADDRESSES, LEDGER = "redirects/addresses.csv", "ledger.csv"
FOLLOWED = "redirects/followed.csv"
FOLLOWED_COLUMNS = ("old", "asked", "wanted", "found", "outcome")
_NAMES = {UNCHANGED: "unchanged", REDIRECTED: "redirected", GONE: "gone"}


class RuleFacts(Struct, frozen=True):
    """One rule, for a person."""

    old: str
    new: str
    words: str
    addresses: int


class ReasonFacts(Struct, frozen=True):
    """Why old addresses are gone."""

    why: str
    addresses: int


class LoweringFacts(Struct, frozen=True):
    """What servers whose rules can convert to lowercase get instead."""

    servers: list[str]
    rules: int
    exceptions: int


class Summary(Struct, frozen=True):
    """What the redirects of a move come to."""

    counts: dict[str, int]  # unchanged, redirected, gone -> old addresses
    rules: list[RuleFacts]
    exceptions: int  # lines besides the rules
    reasons: list[ReasonFacts]  # of addresses that are gone
    # host of the old addresses, without www -> addresses; the first has the most
    hosts: dict[str, int]
    # rules and exceptions for the servers whose rules can convert to lowercase, if no server is named and that helps
    lowering: LoweringFacts | None = None


def answers_of(folder: MoveFolder) -> Callable[[], Iterator[OldAddress]]:
    """A function that reads the answers of a move folder. Raises BurrowError if there are none yet."""
    if not folder.has(ADDRESSES):
        message = f"The folder has no {ADDRESSES} yet."
        raise refusal(
            "not-moved", message, f"Run `newburrow move {shlex.quote(str(folder.path))}` first."
        )
    return lambda: table.read(folder.path / ADDRESSES)


class _Counted:
    """Answers that are counted while they are read."""

    def __init__(self, answers: Callable[[], Iterator[OldAddress]]) -> None:
        self.counts = dict.fromkeys(_NAMES.values(), 0)
        self.reasons: list[ReasonFacts] = []
        self._answers = answers

    def __call__(self) -> Iterator[OldAddress]:
        statuses, reasons = Counter[int](), Counter[str]()
        for row in self._answers():
            statuses[row.status] += 1
            if row.status == GONE:
                reasons[row.why] += 1
            yield row
        self.counts = {name: statuses[status] for status, name in _NAMES.items()}
        self.reasons = [ReasonFacts(*pair) for pair in sorted(reasons.items())]


def summary(folder: MoveFolder, server: str = "") -> tuple[Summary, str]:
    """Count what is kept, redirected and gone in a finished move, and describe the rules in words.

    Reads `redirects/addresses.csv`, which a person may have changed. With a server, its redirects are written to
    `redirects/SERVER/`, and the instructions for installing them come with the summary. Raises BurrowError
    if there is no server of that name, the move is not finished, or an address has two answers.
    """
    if not server:
        return _summary(folder, "")
    plugins.get(plugins.SERVERS, server)
    with folder.locked():
        return _summary(folder, server)


def _summary(folder: MoveFolder, server: str) -> tuple[Summary, str]:
    decisions = folder.decisions()
    host = hosts.load(folder.name_or_path(decisions.new.host))
    new_lists = NewArchives(host, decisions.new.address).samples()
    counted = _Counted(answers_of(folder))
    with SpooledAnswers(counted) as answers:
        learnt = learning.learn(answers(), new_lists)
        if learnt.twins:
            table.check(folder.path / ADDRESSES, learnt.twins)
        maps = RedirectMaps.of(learnt, answers, decisions.redirects)
        maps.new_lists = new_lists
        guidance = ""
        if server:
            new = decisions.new.address
            guidance = server_files.write_all(maps, server, folder.open, new).guidance
        lowers = bool(server) and plugins.get(plugins.SERVERS, server).lowers
        summarised = Summary(
            counted.counts,
            list(_rule_facts(maps, lowers)),
            sum((site.lowering() if lowers else site).count() for site in maps.maps),
            counted.reasons,
            {site.site: site.addresses for site in maps.sites},
            None if server else _lowering_facts(maps),
        )
        return summarised, guidance


def _rule_facts(maps: RedirectMaps, lowers: bool) -> Iterator[RuleFacts]:
    """The rules for servers that can convert to lowercase, or for those that cannot."""
    for redirects in maps.maps:
        if lowers:
            redirects = redirects.lowering()
        for number, rule in enumerate(redirects.rules):
            yield RuleFacts(
                rule.old_pattern(),
                rule.new_pattern(),
                in_words(rule),
                maps.right_answers(redirects)[redirects.site, number],
            )


def _lowering_facts(maps: RedirectMaps) -> LoweringFacts | None:
    lowering = [redirects.lowering() for redirects in maps.maps]
    if lowering == maps.maps:
        return None
    servers = [
        name
        for name in plugins.names(plugins.SERVERS)
        if plugins.get(plugins.SERVERS, name).lowers
    ]
    return LoweringFacts(
        servers,
        sum(len(redirects.rules) for redirects in lowering),
        sum(redirects.count() for redirects in lowering),
    )


def follow(
    folder: MoveFolder, sites: Sites, listener: Listener = nobody
) -> Iterator[FollowedAddress]:
    """Ask a running server for every old address, and yield what each comes to, in the order of the table.

    An answer is wrong if its status, its target or the number of steps differs from the map, or if
    the page at the end does not contain the title of the entry. All of them are written to
    `redirects/followed.csv` meanwhile. Raises BurrowError if nobody answers.
    """
    from newburrow.redirects import server_check  # heavy: imported where it is used

    answers = answers_of(folder)
    total = sum(1 for _row in answers())
    sites = replace(sites, status=folder.decisions().redirects.status)
    titles = TitleIndex(folder.path / LEDGER)
    with folder.locked():
        followed = server_check.follow(answers(), sites, titles, listener, total)
        with csvfile.writing(folder.open(FOLLOWED), FOLLOWED_COLUMNS) as writer:
            for address in followed:
                writer(
                    (address.old, address.asked, address.wanted, address.found, address.outcome)
                )
                yield address
