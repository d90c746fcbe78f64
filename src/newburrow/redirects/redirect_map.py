"""What the redirects of a server are written from: the answers, the rules learnt from them, and the exceptions."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from itertools import islice
from pathlib import Path

from msgspec.structs import astuple

from newburrow.core import url
from newburrow.redirects.rules import learning
from newburrow.redirects.rules.redirect_rule import RedirectRule
from newburrow.store.journal.rows import REDIRECTED, OldAddress
from newburrow.store.redirects.all_answers import AllAnswers
from newburrow.store.redirects.exceptions import ExceptionRow, Exceptions
from newburrow.store.redirects.parameters import Parameters, has_several

_LONGEST = 1000  # characters of an address that is also written in other spellings


class RedirectMap:
    """All answers of a move; the rules are for a site, which most old addresses are of, as sites are compared."""

    def __init__(
        self,
        answers: AllAnswers,
        rules: tuple[RedirectRule, ...],
        site: str = "",
        permanent: int = REDIRECTED,
        exceptions: Exceptions | None = None,
    ) -> None:
        self.answers, self.rules, self.site = answers, rules, site
        self.permanent = permanent  # the status of a redirect: 301 or 308 (RFC 9110 sections 15.4.2 and 15.4.9)
        self._before = exceptions

    @classmethod
    def learnt(cls, answers: AllAnswers, permanent: int = REDIRECTED) -> RedirectMap:
        """The redirect map of these answers, with the rules learnt from them."""
        site, rules = learning.learn(answers)
        return cls(answers, rules, site, permanent)

    def keep(self, path: Path) -> None:
        """Write the exceptions before the rules into a file, for others to read by `Exceptions`."""
        self._before = Exceptions(path)
        self._before.fill(self._exceptions(), self.answers)

    def exact(self) -> Iterator[OldAddress]:
        """The exceptions to the rules: answers that no rule gives, and pages that no rule may redirect."""
        return (row for row, _other in self._exceptions_kept.rows())

    def spelled_out(self) -> Iterator[OldAddress]:
        """What a server is told before the rules: the same, also with or without the slash at the end.

        Old hosts answered both, and so do the rules. Where something else is at the other it has its own answer.
        Letters that can be composed in two ways are told in both, and of several parameters the one that tells most.
        """
        for row, other in self._looked_up():
            yield from _composed(row)
            if other:
                yield from _composed(other)

    def looked_up(self) -> Iterator[OldAddress]:
        """The exceptions before the rules, with the one parameter by which an address is looked up."""
        return (row for row, _other in self._looked_up())

    def _looked_up(self) -> Iterator[tuple[OldAddress, OldAddress | None]]:
        for row, other in self._exceptions_kept.rows():
            yield (self._parameters.by_one(row) if has_several(row.key) else row), other

    def others(self) -> Iterator[OldAddress]:
        """The addresses that are written only because a slash at the end is added or missing."""
        return self._exceptions_kept.others()

    @property
    def has_capitals(self) -> bool:
        """Whether any address, old or new, may hold a capital letter; else none differs from another in case."""
        return self._exceptions_kept.has_capitals

    @cached_property
    def _parameters(self) -> Parameters:
        return Parameters(self.answers)

    @cached_property
    def _exceptions_kept(self) -> Exceptions:
        if self._before is None:
            self._before = Exceptions()
            self._before.fill(self._exceptions(), self.answers)
        return self._before

    def _exceptions(self) -> Iterator[ExceptionRow]:
        for row in learning.exceptions(self.rules, self.answers, self.site):
            yield _with_other(row, self.site)


def _composed(row: OldAddress) -> Iterator[OldAddress]:
    """The answer, and it again for each other spelling of its letters, if all servers can express it."""
    yield row
    spelled = (
        (not row.old.isascii() or "%" in row.old)
        and _is_short(row)
        and "%2F" not in row.old.upper()
    )
    if spelled and url.path_of(row.old).isprintable():
        yield from (row.at(old) for old in islice(url.compositions(row.old), 1, None))


def _is_short(row: OldAddress) -> bool:
    return max(len(row.old), len(row.new)) < _LONGEST


def _with_other(row: OldAddress, site: str) -> ExceptionRow:
    if _is_short(row) and row.key.startswith(f"{site}/"):
        other = url.other_slash(row.old)
    else:
        other = ""
    if other:
        if row.key.endswith("/"):
            other_key = row.key.removesuffix("/")
        else:
            other_key = f"{row.key}/"
    else:
        other_key = ""
    return *astuple(row), other, other_key
