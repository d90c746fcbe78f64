"""What verifying a move came to."""

from __future__ import annotations

from msgspec import Struct

from newburrow.verify.difference import Difference


class Verified(Struct, frozen=True):
    """What verifying a move came to."""

    entries: int  # that were found in the result
    as_before: int  # those of them of which all is there
    of: int  # words, headings, links, ... in the bodies of the old site
    kept: int  # those of them that are in the result
    counts: dict[str, tuple[int, int]]  # kind -> handed over, found in the result
    explained: dict[str, int]  # what differs -> how often, where a row says why
    unexplained: dict[str, int]  # what differs -> how often, where nothing does
    first: list[Difference]  # of the unexplained ones

    @property
    def fidelity(self) -> float:
        """The share of what the old bodies held that is in the result, from 0 to 1."""
        if self.of:
            return self.kept / self.of
        return 1.0

    @property
    def is_right(self) -> bool:
        """Whether every difference is explained."""
        return not self.unexplained
