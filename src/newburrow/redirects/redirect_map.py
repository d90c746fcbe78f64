"""What the redirects of a server are written from: the answers, the rules learnt from them, and the exceptions."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from copy import copy
from itertools import islice
from pathlib import Path

from msgspec.structs import astuple, replace

from newburrow.core import url
from newburrow.decide.decisions import Redirects
from newburrow.redirects.rules import learning, rule_answers
from newburrow.redirects.rules.learnt import Learnt, LearntSite
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.redirects.rules.rule_answers import RightAnswers, RuleException
from newburrow.store.journal.rows import REDIRECTED, UNCHANGED, OldAddress
from newburrow.store.redirects.all_answers import AllAnswers
from newburrow.store.redirects.exceptions import AnswerPair, ExceptionRow, Exceptions
from newburrow.store.redirects.seen_keys import SeenKeys

_LONGEST = 1000  # characters of an address that is also written in other spellings


class RedirectMap:
    """The answers for the addresses of one old site, and how they are to be given."""

    def __init__(
        self, answers: AllAnswers, learnt: LearntSite, exceptions: Exceptions, number: int = 1
    ) -> None:
        self.learnt = learnt
        self.site, self.rules = learnt.site, learnt.rules
        self.number = number  # of the site, counted from 1: the first has the most addresses
        self.lowers = False  # whether it is for servers whose rules can convert to lowercase
        self.choice = Redirects()
        self._answers, self._exceptions = answers, exceptions

    def lowering(self) -> RedirectMap:
        """The same for a server that can lower letters; this one is for those that cannot."""
        if not self.learnt.has_lowering:
            return self
        found = copy(self)
        found.rules, found.lowers = self.learnt.lowering_rules, True
        found._exceptions = self._exceptions.lowering()
        return found

    @property
    def status(self) -> int:
        """The status of a redirect (RFC 9110 section 15.4)."""
        return self.choice.status

    def status_of(self, row: OldAddress) -> int:
        """The status with which a server answers for an address."""
        if row.status == REDIRECTED:
            return self.status
        return row.status

    @property
    def keeps_query(self) -> bool:
        """Whether the query of a visitor goes along, if the address is known by its path alone."""
        return self.choice.queries == "keep"

    @property
    def mark(self) -> str:
        """What tells the names of this site's files and variables from those of others; empty for the first site."""
        if self.number > 1:
            return f"_{self.number}"
        return ""

    @property
    def path_rules(self) -> tuple[RedirectRule, ...]:
        """The rules about the path alone."""
        return tuple(rule for rule in self.rules if not rule.parameter)

    @property
    def parameter_rules(self) -> tuple[RedirectRule, ...]:
        """The rules about a parameter."""
        return tuple(rule for rule in self.rules if rule.parameter)

    def answers(self) -> Iterator[OldAddress]:
        """All answers for this site."""
        return (row for row in self._answers() if row.key.partition("/")[0] == self.site)

    def exact(self) -> Iterator[OldAddress]:
        """The exceptions to the rules: answers that no rule gives, and pages that no rule may redirect."""
        return (row for row, _other in self._exceptions.rows(self.site))

    def spelled_out(self) -> Iterator[OldAddress]:
        """What a server is told before the rules: the same, also with or without the slash at the end.

        Old hosts answered both, and so do the rules. Where something else is at the other it has its own answer.
        Letters that can be composed in two ways are told in both. Addresses with a query come first.
        """
        return _spelled_out(self._exceptions.rows(self.site))

    def spelled_out_queries(self) -> Iterator[OldAddress]:
        """Those of `spelled_out` that have a query."""
        return _spelled_out(self._exceptions.with_query(self.site))

    def spelled_out_paths(self) -> Iterator[OldAddress]:
        """Those of `spelled_out` that are a path alone."""
        return _spelled_out(self._exceptions.without_query(self.site))

    def others(self) -> Iterator[OldAddress]:
        """The addresses that are written only because a slash at the end is added or missing."""
        return self._exceptions.others(self.site)

    def count(self) -> int:
        """How many exceptions there are."""
        return self._exceptions.count(self.site)

    @property
    def size(self) -> tuple[int, int]:
        """How many single addresses there are, of all sites, and the bytes of the longest."""
        return self._exceptions.size()

    def left_out(self) -> Iterator[OldAddress]:
        """What is above the number of lines that the server takes."""
        return self._exceptions.left_out(self.site)

    @property
    def has_merged(self) -> bool:
        """Whether any address has slashes that servers may see as one."""
        return self._exceptions.has_merged

    @property
    def has_capitals(self) -> bool:
        """Whether any address, old or new, may hold a capital letter; else none differs from another in case."""
        return self._exceptions.has_capitals


class RedirectMaps:
    """The redirect maps of a move, one for each old site; that with the most addresses first."""

    def __init__(
        self,
        answers: AllAnswers,
        sites: Sequence[LearntSite],
        exceptions: Exceptions,
        choice: Redirects | None = None,
    ) -> None:
        self._answers = answers
        self.new_lists: Sequence[str] = ()  # addresses of lists on the new site
        self.right = RightAnswers()
        self.sites = tuple(sites) or (
            LearntSite("", (), 0, ()),
        )  # files are written all the same
        self.maps = [
            RedirectMap(answers, site, exceptions, number)
            for number, site in enumerate(self.sites, 1)
        ]
        for redirects in self.maps:
            redirects.choice = choice or Redirects()

    @classmethod
    def learnt(
        cls,
        answers: AllAnswers,
        choice: Redirects | None = None,
        new_lists: Sequence[str] = (),
        kept: Path | str = "",
    ) -> RedirectMaps:
        """The maps of these answers, with the rules learnt from them.

        `new_lists` are addresses of lists on the new site, which no rule may answer. The exceptions are kept in the
        file `kept`, for others to read by `Exceptions`, or in one that goes away.
        """
        maps = cls.of(learning.learn(answers(), new_lists), answers, choice, kept)
        maps.new_lists = new_lists
        return maps

    @classmethod
    def of(
        cls,
        learnt: Learnt,
        answers: AllAnswers,
        choice: Redirects | None = None,
        kept: Path | str = "",
    ) -> RedirectMaps:
        """The maps of answers from which rules are learnt already; see `learnt`."""
        decided, sites = choice or Redirects(), learnt.sites
        exceptions = Exceptions(kept)
        right = RightAnswers()
        rows = map(_with_other, rule_answers.exceptions(sites, answers, right))
        exceptions.fill(rows, answers, learnt.twins, learnt.has_capitals)
        if decided.most:
            sites = [_limited(site, exceptions, decided.most) for site in sites]
        maps = cls(answers, sites, exceptions, choice)
        maps.right = right
        return maps

    def right_answers(self, redirects: RedirectMap) -> Counter[tuple[str, int]]:
        """How many addresses each rule of a map answers rightly, by site and number."""
        if redirects.lowers:
            return self.right.lowering
        return self.right.plain

    def arriving(self, redirects: RedirectMap, new: str) -> RedirectMap:
        """The map for what comes to the new site, by the paths of an old one, when that is sent there as a whole.

        `new` is scheme and host of the new site. Its own pages are not redirected.
        """
        pages = SeenKeys()
        for row in self._answers():
            if row.status == REDIRECTED:
                pages.may_have(row.new_key)

        def answers() -> Iterator[OldAddress]:
            for row in redirects.answers():
                parts = url.split(row.old)
                if parts is None or row.status == UNCHANGED:
                    continue
                old = new + parts._replace(scheme="", netloc="").geturl()
                if not pages.has(url.key(old)):
                    yield OldAddress.of(old, row.new, row.status, row.why)

        maps = RedirectMaps.learnt(answers, redirects.choice, self.new_lists)
        arriving = maps.maps[0]
        # Beside those of an old site in one server, nothing may have the same name.
        arriving.number = len(self.maps) + redirects.number
        return arriving


def _limited(learnt: LearntSite, exceptions: Exceptions, most: int) -> LearntSite:
    """Keep no more lines than a server takes. Rules stay only if there is room for what they must not answer."""
    if len(learnt.rules) + exceptions.guards(learnt.site) > most:
        learnt = replace(learnt, rules=())
    learnt = replace(learnt, lowering_rules=learnt.rules)
    exceptions.limit(learnt.site, most - len(learnt.rules), _lines_of)
    return learnt


def _lines_of(row: OldAddress, other: OldAddress | None) -> int:
    return sum(1 for _row in _spelled_out([(row, other)]))


def _spelled_out(pairs: Iterable[AnswerPair]) -> Iterator[OldAddress]:
    """The answers of pairs, and each again for other spellings of its letters, if all servers can express these."""
    for pair in pairs:
        for row in pair:
            if row is None:
                continue
            yield row
            if "%" in row.old or not row.old.isascii():  # few are
                yield from _compositions(row)


def _compositions(row: OldAddress) -> Iterator[OldAddress]:
    spelled = _is_short(row) and "%2F" not in row.old.upper()
    if spelled and url.path_of(row.old).isprintable():
        yield from (row.at(old) for old in islice(url.compositions(row.old), 1, None))


def _is_short(row: OldAddress) -> bool:
    return max(len(row.old), len(row.new)) < _LONGEST


def _with_other(found: RuleException) -> ExceptionRow:
    row = found.row
    return (
        *astuple(row),
        found.guards,
        found.plain,
        found.lowering,
        url.other_slash(row.old) if _is_short(row) else "",
    )
