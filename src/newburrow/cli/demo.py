"""Do the whole job once on made-up data: the news blog, the wiki or the course of an orchard, moved to another host."""

from __future__ import annotations

import argparse
from pathlib import Path

from newburrow.cli.parsing import Parser, add_json
from newburrow.cli.screen import Screen, in_shell
from newburrow.cli.summary import follow_ups
from newburrow.commands.demo import SITES, demo
from newburrow.report.outcome import Outcome

EXAMPLE = "newburrow demo --out demo-move"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow demo`."""
    parser.add_argument(
        "--out",
        type=Path,
        default=Path("demo-move"),
        metavar="FOLDER",
        help="where the exports and the move go (demo-move)",
    )
    parser.add_argument(
        "--site",
        choices=SITES,
        default=SITES[0],
        help="the site that moves: the orchard's news blog, its growers' wiki or its grafting course (blog)",
    )
    add_json(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Write the demo export, move it, and print the outcome in ten lines."""
    with screen.progress() as listener:
        made = demo(options.out, options.site, listener, options.jobs)
    outcome, move = made.outcome, options.out / "move"
    if options.json:
        from newburrow.cli.json_forms import of_move

        screen.json("move", of_move(outcome))
        if outcome.complete:
            return 0
        return 1
    screen.line(f"{made.title}: from {made.dialect} to {made.host}")
    screen.fact("found", _counts_by_fate(outcome, "found"))
    screen.fact("moved", _counts_by_fate(outcome, "moved"))
    screen.fact("not moved", _not_moved(outcome))
    screen.fact(
        "addresses",
        f"{outcome.redirects['redirected']} redirected, {outcome.redirects['unchanged']} unchanged, "
        f"{outcome.redirects['gone']} gone",
    )
    screen.fact("follow-ups", follow_ups(outcome))
    screen.line(f"result      {move}")  # a path must not be broken
    screen.line(
        f"Next: open {move / 'report.html'} in a browser, and see what is left to do by hand."
    )
    screen.line(
        f"Then change {move / 'move.toml'} or its tables, and run: newburrow move {in_shell(move)}"
    )
    screen.line(f"Or look at the export itself: newburrow survey {in_shell(made.exports[0])}")
    for other in made.exports[1:]:
        screen.line(f"The same site as another host exports it: {other}")
    if outcome.complete:
        return 0
    return 1


_SHOWN = {
    "post": "posts",
    "page": "pages",
    "wiki-page": "pages",
    "module": "modules",
    "lesson": "lessons",
    "quiz": "quizzes",
    "question-bank": "question banks",
    "question": "questions",
    "discussion": "discussions",
    "assignment": "assignments",
    "link": "links",
    "revision": "earlier versions",
    "comment": "comments",
    "pingback": "pingbacks",
    "category": "categories",
    "tag": "tags",
    "author": "authors",
    "media": "files",
    "menu-item": "menu items",
}


def _counts_by_fate(outcome: Outcome, fate: str) -> str:
    return ", ".join(
        _counted(getattr(outcome.counts[kind], fate), kind, word)
        for kind, word in _SHOWN.items()
        if kind in outcome.counts
    )


def _counted(number: int, kind: str, plural: str) -> str:
    if number == 1:
        return f"1 {kind.replace('-', ' ')}"
    return f"{number} {plural}"


def _not_moved(outcome: Outcome) -> str:
    accounts = outcome.counts.values()
    return (
        f"{sum(a.merged for a in accounts)} merged, {sum(a.left_out for a in accounts)} left out, "
        f"{sum(a.failed for a in accounts)} failed: ledger.csv says why"
    )
