"""What was learnt from all answers of a move."""

from __future__ import annotations

from msgspec import Struct

from newburrow.redirects.rules.redirect_rule import RedirectRule


class LearntSite(Struct, frozen=True):
    """What was learnt about one old site."""

    site: str  # as `url.site_key`
    rules: tuple[RedirectRule, ...]  # in the order in which a server must try them
    addresses: int
    # The rules for servers that can lower letters, in their order; the same ones if that helps nowhere.
    lowering_rules: tuple[RedirectRule, ...]

    @property
    def has_lowering(self) -> bool:
        """Whether servers that can lower letters have rules of their own."""
        return self.lowering_rules != self.rules


class Learnt(Struct, frozen=True):
    """What one reading of all answers has shown."""

    sites: list[LearntSite]  # that with the most addresses first
    # Keys without a slash at their end that more than one address may have: all that have, and few others.
    twins: frozenset[str]
    has_capitals: bool  # whether any address, old or new, holds a capital letter
