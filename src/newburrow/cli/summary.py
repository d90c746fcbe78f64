"""What a move came to, in tables and in JSON."""

from __future__ import annotations

from newburrow.cli.screen import Screen, cell, in_shell, table
from newburrow.report.accounting import Account
from newburrow.report.outcome import Outcome

_LONGEST = 76  # characters of a follow-up
_COLUMNS = ("found", "moved", "merged", "left out", "failed")


def show(outcome: Outcome, screen: Screen) -> None:
    """The verdict, counts by kind, redirects, the most important follow-ups, and what to do next."""
    screen.line(f"{outcome.verdict.sentence}\n")
    counts = table("Kind", *_COLUMNS, numbers=_COLUMNS)
    for kind, account in outcome.counts.items():
        if kind != "site":
            counts.add_row(
                cell(kind), *(f"{number:,}" if number else "–" for number in _numbers(account))
            )
    screen.out.print(counts)
    screen.line(f"\nFiles handed in: {outcome.files.sentence}")
    redirects = outcome.redirects
    screen.line(
        f"Old addresses: {redirects['unchanged']:,} unchanged, {redirects['redirected']:,} redirected, "
        f"{redirects['gone']:,} gone"
    )
    if outcome.walk:
        screen.line(f"The walk: {outcome.walk.sentence}")
    screen.line(f"Follow-ups: {follow_ups(outcome)}")
    for first in outcome.first:
        about = f"{first.title}: " if first.title else ""
        screen.line(f"  {_short(f'{first.severity}: {about}{first.what}')}")
    for problem in outcome.problems:
        screen.error(problem.text())
    if outcome.out is None:
        screen.line("\nThis was a rehearsal: nothing was written.")
        return
    screen.line(f"\nThe result is in {outcome.out}:")
    for name, description in (
        ("report.html", "open it first: what to do next, counts, samples, every list"),
        ("new/", "what the new host imports"),
        ("redirects/", "for the server of the old address"),
        ("follow-ups.csv", "what is left to do by hand; tick it off there"),
        ("cut-over.csv", "the steps of the move in their order, to tick off"),
        ("walk.csv", "pages that nothing reaches, links that lead nowhere, files on no page"),
        ("ledger.csv", "what became of every object"),
    ):
        screen.line(f"  {name:<16}{description}")
    if any(account.failed for account in outcome.counts.values()):
        screen.line("\nNot all could be moved; the ledger says what and why.")
    elif outcome.follow_ups.get("error"):
        screen.line("\nSettle the errors in follow-ups.csv before you import the result.")
    screen.line(f"\nNext: newburrow verify {in_shell(outcome.out)}")


def _short(text: str) -> str:
    """A text in one line of a terminal."""
    line = " ".join(text.split())
    if len(line) > _LONGEST:
        return f"{line[:_LONGEST]}…"
    return line


_SEVERITIES = {
    "fatal": ("fatal", "fatal"),
    "error": ("error", "errors"),
    "warning": ("warning", "warnings"),
    "note": ("note", "notes"),
}


def follow_ups(outcome: Outcome) -> str:
    """How many follow-ups there are of each severity, in words."""
    parts = [
        f"{number:,} {_SEVERITIES[severity][number != 1]}"
        for severity, number in outcome.follow_ups.items()
    ]
    for number, word in zip(outcome.settled, ("done", "accepted"), strict=True):
        if number:
            parts.append(f"{number:,} {word}")
    return ", ".join(parts) or "none"


def _numbers(account: Account) -> tuple[int, ...]:
    return account.found, account.moved, account.merged, account.left_out, account.failed
