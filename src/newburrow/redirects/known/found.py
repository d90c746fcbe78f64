"""What a file beside the export can say of old addresses."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from newburrow.core.problem import Problem
from newburrow.model import Where

REDIRECTS = frozenset({"301", "302", "303", "307", "308"})
GONE = "410"


class KnownUrl(Struct, frozen=True):
    """An old address."""

    address: str  # whole, or from the site on
    target: str = ""  # where the old site sends it
    visits: int = 0
    is_gone: bool = False  # whether the old server says so


class OldRule(Struct, frozen=True):
    """A rule of the old site for many addresses."""

    old: str  # an expression for the path
    new: str  # with $1 or \\1 for its groups


Found = Iterator[KnownUrl | OldRule | Problem]


def of_rule(old: str, new: str, where: Where) -> Found:
    """A rule for many addresses, and that it is one."""
    yield OldRule(old, new)
    yield Problem.at(
        where,
        "old-rule",
        message=f"The old site has a rule for many addresses: {old} → {new}.",
        advice="It was used for the old addresses that are known. For more, hand in a log or a list of what is visited "
        "(old.known in move.toml), or keep the rule on the old server.",
    )


def not_understood(words: str, why: str, where: Where) -> Problem:
    """A directive that is not used, since only a part of it could be."""
    return Problem.at(
        where,
        "old-rule",
        message=f"This rule of the old server was not used, since {why}: {words[:200]}",
        advice="Add lines to redirects/addresses.csv for the addresses that it answered.",
    )
