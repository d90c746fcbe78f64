"""What a move came to."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from newburrow.core.problem import Problem
from newburrow.formats.exports.file_counts import FileCounts
from newburrow.report.accounting import Account
from newburrow.report.walk import Walk


class Outcome(Struct, frozen=True):
    """What a move came to."""

    counts: dict[str, Account]  # by kind of object
    redirects: dict[str, int]  # unchanged, redirected, gone -> number of old addresses
    follow_ups: dict[str, int]  # severity -> number
    out: Path | None  # the move folder; None for a rehearsal
    problems: list[Problem]  # what does not add up
    walk: Walk | None = None  # through the site, before and after
    files: FileCounts = FileCounts()  # what the files of the sources were taken for

    @property
    def complete(self) -> bool:
        """Whether everything is accounted for and nothing failed."""
        return not self.problems and not any(account.failed for account in self.counts.values())
