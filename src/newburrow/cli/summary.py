"""What a move came to, in tables and in JSON."""

from __future__ import annotations

from newburrow.cli.screen import Screen, cell, table
from newburrow.report.accounting import Account
from newburrow.report.outcome import Outcome

_COLUMNS = ("found", "moved", "merged", "left out", "failed")


def show_json(outcome: Outcome, screen: Screen) -> None:
    """One object: counts, files, redirects, follow_ups, walk, out."""
    if outcome.out:
        out = str(outcome.out)
    else:
        out = None
    screen.json(
        {
            "counts": outcome.counts,
            "files": outcome.files,
            "redirects": outcome.redirects,
            "follow_ups": outcome.follow_ups,
            "settled": {"done": outcome.settled[0], "accepted": outcome.settled[1]},
            "walk": outcome.walk,
            "out": out,
        }
    )


def show(outcome: Outcome, screen: Screen) -> None:
    """Counts by kind, redirects, follow-ups, and what to do next."""
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
    screen.line(f"Follow-ups: {follow_ups(outcome)}")
    if outcome.walk:
        screen.line(f"The walk: {outcome.walk.sentence}")
    for problem in outcome.problems:
        screen.error(problem.text())
    if outcome.out is None:
        screen.line("\nThis was a rehearsal: nothing was written.")
        return
    screen.line(f"\nThe result is in {outcome.out}:")
    for name, description in (
        ("report.html", "open it first: counts, follow-ups, redirects, ledger"),
        ("new/", "what the new host imports"),
        ("redirects/", "for the server of the old address"),
        ("follow-ups.csv", "what is left to do by hand; tick it off there"),
        ("cut-over.csv", "the steps of the move in their order, to tick off"),
        ("walk.csv", "pages that nothing reaches, links that lead nowhere, files on no page"),
        ("ledger.csv", "what became of every object"),
    ):
        screen.line(f"  {name:<16}{description}")
    if not outcome.complete:
        screen.line("\nNot all could be moved; the ledger says what and why.")


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
