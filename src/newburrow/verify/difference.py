"""A difference between what was moved and what is in the result."""

from __future__ import annotations

from msgspec import Struct

# The tables that `verify` writes: a row for each entry, and one for each difference.
FIDELITY, DIFFERENCES = "fidelity.csv", "differences.csv"


class Difference(Struct, frozen=True):
    """One difference, and why it is there."""

    # `entry`, `comment`, `media`, `question`, `term`, `author`, `redirect`, `redirects` (files of a server),
    # `menu-item`, `site`, `table`, `result`
    object: str
    title: str  # the name by which a person knows the object
    address: str  # on the new site; of a table its name
    fact: str  # what differs: `title`, `words`, `missing`, ...
    expected: str
    found: str
    why: str = ""  # the row that explains it; empty: nothing does

    @property
    def is_explained(self) -> bool:
        """Whether the ledger or a follow-up says why."""
        return bool(self.why)
