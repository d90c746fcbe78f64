"""What a move came to."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from newburrow.core.problem import Problem
from newburrow.formats.exports.file_counts import FileCounts
from newburrow.report.accounting import Account


class WalkSide(Struct, frozen=True):
    """What a walk through one of the two sites finds."""

    reached: int  # pages that the home page or the menu leads to, link by link
    unreached: int  # pages that nothing leads to
    dead_links: int  # links that lead nowhere
    unshown_files: int  # files that no page shows or links to


class Walk(Struct, frozen=True):
    """The walk through both sites."""

    before: WalkSide
    after: WalkSide
    has_home: bool  # whether a home page or a menu is known, from which to begin

    @property
    def sentence(self) -> str:
        """The walk in one sentence."""
        if not self.has_home:
            return "no home page, menu or table of contents is known to begin from"
        before, after = self.before, self.after
        pages, earlier = after.reached + after.unreached, before.reached + before.unreached
        links = "link" if after.dead_links == 1 else "links"
        files = "file" if after.unshown_files == 1 else "files"
        return (
            f"{after.reached:,} of {pages:,} pages reached (before: {before.reached:,} of {earlier:,}), "
            f"{after.dead_links:,} dead {links} ({before.dead_links:,}), "
            f"{after.unshown_files:,} {files} on no page ({before.unshown_files:,})"
        )


class StepRow(Struct, frozen=True):
    """A step of the move as it stands in `cut-over.csv`."""

    step: str
    when: str
    what: str
    done: str
    note: str


class Verdict(Struct, frozen=True):
    """What came of a move, in one sentence."""

    tone: str  # `good`, `warn` or `bad`
    sentence: str


class FirstFollowUp(Struct, frozen=True):
    """One of the most important things to do."""

    severity: str
    title: str  # of what it is about
    what: str


class Outcome(Struct, frozen=True):
    """What a move came to."""

    counts: dict[str, Account]  # by kind of object
    redirects: dict[str, int]  # unchanged, redirected, gone -> number of old addresses
    follow_ups: dict[str, int]  # severity -> number of those still to be done
    settled: tuple[int, int]  # follow-ups that a person has done, and accepted as harmless
    out: Path | None  # the move folder; None for a rehearsal
    problems: list[Problem]  # what does not add up
    walk: Walk | None = None  # through the site, before and after
    first: list[FirstFollowUp] = []  # the most important follow-ups
    files: FileCounts = FileCounts()  # what the files of the sources were taken for

    @property
    def complete(self) -> bool:
        """Whether everything is accounted for, nothing failed, and no error is left to be settled."""
        has_failed = any(account.failed for account in self.counts.values())
        return not (self.problems or has_failed or self.follow_ups.get("error"))

    @property
    def verdict(self) -> Verdict:
        """What came of a move, in one sentence."""
        unbalanced = [kind for kind, account in self.counts.items() if not account.balances]
        failed = sum(account.failed for account in self.counts.values())
        if self.problems or unbalanced:
            return Verdict("bad", "The counts do not add up: do not rely on this move.")
        if failed:
            objects = "object" if failed == 1 else "objects"
            return Verdict(
                "warn",
                f"Every object is accounted for; {failed:,} {objects} could not be moved.",
            )
        errors = self.follow_ups.get("error", 0)
        if errors:
            named = "error has" if errors == 1 else "errors have"
            return Verdict(
                "warn",
                f"Every object is accounted for, and none failed; {errors:,} {named} to be settled.",
            )
        to_do = self.follow_ups.get("warning", 0)
        if to_do:
            things = "thing needs" if to_do == 1 else "things need"
            return Verdict(
                "good",
                f"Every object is accounted for, and none failed; {to_do:,} {things} a person.",
            )
        return Verdict(
            "good", "Every object is accounted for, none failed, and nothing needs a person."
        )
