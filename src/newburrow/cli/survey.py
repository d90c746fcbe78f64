"""Count and examine what is in an export. Nothing is written.

With --against the export is held against another way of getting the same content, such as a feed or an earlier export:
what only one of them has, what differs, and which is fuller.
"""

from __future__ import annotations

import argparse
from pathlib import Path

from msgspec.structs import asdict

from newburrow.assess.survey_facts import SourceFacts, Survey, TermFacts
from newburrow.cli.parsing import Parser, add_json, add_paths, add_reading, request_of
from newburrow.cli.screen import Screen, cell, in_shell, table
from newburrow.commands.survey import survey_paths

_SHOWN = 10  # permalink patterns
_LISTED = 60  # authors, and terms
# members of MediaFacts, in words
_OF_FILES = {
    "in_export": "in the export",
    "missing": "missing",
    "elsewhere": "elsewhere",
    "same_bytes": "the same bytes",
    "never_shown": "never shown",
}

EXAMPLE = "newburrow survey export.zip\n  newburrow survey feed.xml --against export.zip"


def configure(parser: Parser) -> None:
    """The arguments of `newburrow survey`."""
    add_paths(parser)
    add_reading(parser)
    parser.add_argument(
        "--against",
        action="append",
        default=[],
        type=Path,
        metavar="PATH",
        help="compare with what another export or feed of the same site holds",
    )
    add_json(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Survey and print."""
    if options.against:
        from newburrow.cli import comparison  # heavy: most surveys are of one export

        return comparison.run(options, screen)
    with screen.progress() as listener:
        found = survey_paths(request_of(options), listener, options.jobs)
    if options.json:
        screen.json("survey", found)
    else:
        _print(found, screen)
    return 0


def _source(source: SourceFacts) -> str:
    """What a path turned out to be, in one line."""
    if not source.dialect:
        return f"no content of its own, but {source.format}"
    facts = [source.format, f"dialect {source.dialect}"]
    if source.encoding != "utf-8":
        facts.append(f"in {source.encoding}")
    if source.parts > 1:
        facts.append(f"{source.parts:,} parts")
    if source.generator:
        facts.append(f"written by {source.generator}")
    if source.written:
        facts.append(f"{source.written:%Y-%m-%d %H:%M}")
    if source.newest:
        facts.append("the newest export of this site")
    return ", ".join(facts)


def _print(found: Survey, screen: Screen) -> None:
    out = screen.out
    out.print(
        f"[bold]{cell(found.site.title or 'Untitled site')}[/bold]  {cell(found.site.address)}"
    )
    for source in found.sources:
        out.print(cell(f"{source.path}: {_source(source)}"))
    if found.first and found.last:
        offsets = ", ".join(
            f"{offset[:3]}:{offset[3:]} ({number})" for offset, number in found.offsets.items()
        )
        out.print(
            f"Entries from {found.first:%Y-%m-%d} to {found.last:%Y-%m-%d}; offsets from UTC: {offsets}"
        )
    out.print()
    _counts(found, screen)
    _authors_and_terms(found, screen)
    _addresses_and_sizes(found, screen)
    if found.findings:
        shown = table(
            "Finding", "Number", "Examples, and what happens to them", numbers=("Number",)
        )
        for finding in found.findings:
            if finding.count > len(finding.examples):
                more = " …"
            else:
                more = ""
            shown.add_row(
                finding.code,
                f"{finding.count:,}",
                cell("; ".join(finding.examples) + more)
                + (f"\n→ {cell(finding.advice)}" if finding.advice else ""),
            )
        out.print(shown)
    out.print(
        "\nAn export never has the design, the settings or the passwords of members: set these up on the new host."
    )
    paths = " ".join(dict.fromkeys(in_shell(source.path) for source in found.sources))
    out.print(f"Next: newburrow draft {cell(paths)} --to HOST --out FOLDER")


def _counts(found: Survey, screen: Screen) -> None:
    shown = table("What", "Number", "Of these", numbers=("Number",))
    for kind, number in found.counts.items():
        states = ", ".join(
            f"{count:,} {state}" for state, count in found.states.get(kind, {}).items()
        )
        shown.add_row(kind, f"{number:,}", _files(found) if kind == "media" else states)
    screen.out.print(shown)
    screen.out.print()


def _files(found: Survey) -> str:
    numbers = asdict(found.media)
    descriptions = [
        f"{numbers[name]:,} {label}" for name, label in _OF_FILES.items() if numbers[name]
    ]
    return ", ".join([*descriptions, f"{found.media.bytes:,} bytes"])


def _authors_and_terms(found: Survey, screen: Screen) -> None:
    if found.authors:
        shown = table("Author", "Entries", numbers=("Entries",))
        for author in found.authors[:_LISTED]:
            shown.add_row(cell(author.name), f"{author.entries:,}")
        screen.out.print(shown)
        _say_more(len(found.authors) - _LISTED, "authors", screen)
        screen.out.print()
    if found.terms:
        shown = table("Term", "Entries", "Vocabulary", numbers=("Entries",))
        for depth, term in _nested(found.terms)[:_LISTED]:
            shown.add_row(
                "  " * depth + cell(term.name), f"{term.entries:,}", cell(term.vocabulary)
            )
        screen.out.print(shown)
        _say_more(len(found.terms) - _LISTED, "terms", screen)
        screen.out.print()


def _addresses_and_sizes(found: Survey, screen: Screen) -> None:
    if found.permalinks:
        total = sum(permalink.entries for permalink in found.permalinks)
        shown = table(
            "Permalinks", "Entries", "Share", "For example", numbers=("Entries", "Share")
        )
        for permalink in found.permalinks[:_SHOWN]:
            shown.add_row(
                cell(permalink.pattern),
                f"{permalink.entries:,}",
                f"{permalink.entries / total:.0%}",
                cell(permalink.example),
            )
        screen.out.print(shown)
        _say_more(len(found.permalinks) - _SHOWN, "patterns", screen)
        screen.out.print()
    if found.markups:
        descriptions = ", ".join(
            f"{number:,} in {markup}" for markup, number in found.markups.items()
        )
        screen.out.print(f"Bodies: {descriptions}\n")
    if found.largest:
        shown = table("Largest entries", "Bytes", numbers=("Bytes",))
        for entry in found.largest:
            shown.add_row(cell(entry.title), f"{entry.bytes:,}")
        screen.out.print(shown)
        screen.out.print()


def _say_more(number: int, what: str, screen: Screen) -> None:
    """Say how many rows a table leaves out, if any."""
    if number > 0:
        screen.line(f"and {number:,} more {what}; --json has them all")


def _nested(terms: list[TermFacts]) -> list[tuple[int, TermFacts]]:
    """Terms with their depth, each after its parent; terms in a circle or under an unknown one are on top."""
    known = {term.key for term in terms}
    children: dict[str, list[TermFacts]] = {}
    for term in terms:
        children.setdefault(term.parent if term.parent in known else "", []).append(term)
    ordered: list[tuple[int, TermFacts]] = []
    waiting = [(0, term) for term in reversed(children.get("", []))]
    while waiting:
        depth, term = waiting.pop()
        ordered.append((depth, term))
        waiting += [(depth + 1, child) for child in reversed(children.get(term.key, []))]
    reached = {term.key for _depth, term in ordered}
    return ordered + [(0, term) for term in terms if term.key not in reached]
