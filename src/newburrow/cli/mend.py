"""Repair an export that is not well-formed, and list every repair.

Not one byte of what was right is changed. An item that was cut off is left out and named. In an archive, each
XML and JSON file is mended, and all files go into a new zip.
"""

from __future__ import annotations

import argparse
from collections import Counter
from pathlib import Path

from newburrow.cli.parsing import Parser, add_json, add_limits, limits_from
from newburrow.cli.screen import Screen, in_shell
from newburrow.commands.mend import mend_path
from newburrow.intake.repair.record import Repair

EXAMPLE = "newburrow mend export.xml -o mended.xml"

_MOST_IN_JSON = 1000  # repairs; more are counted
_WORDS = {
    "after-end": "after the end of the document, removed",
    "attribute-name": "an attribute whose name is none",
    "attribute-twice": "an attribute twice in one tag",
    "bare-name": "a name without quotes",
    "bare-word": "a word that JSON does not know",
    "bare-ampersand": "a bare &",
    "bare-less-than": "a bare <",
    "before-start": "before the start of the document, removed",
    "cdata-end": "]]> within a text",
    "comment": "-- within a comment",
    "control-in-text": "a control character in a text, escaped",
    "control-character": "a character that XML does not allow, removed",
    "cut-off": "AN ITEM THAT WAS CUT OFF, left out",
    "cut-tag": "a tag that was cut off, removed",
    "declaration": "a declaration that is not true or not in its place",
    "encoding": "bytes of another encoding",
    "entity": "an entity that XML does not know",
    "second-document": "A SECOND DOCUMENT after the end, left out: mend it as a file of its own",
    "missing-comma": "a comma that is missing",
    "missing-value": "a value or colon that is missing",
    "stray-bracket": "a bracket out of place, removed",
    "stray-text": "words that are not JSON, removed",
    "trailing-comma": "a comma with nothing after it, removed",
    "unclosed-bracket": "a list or object that was not closed",
    "wrong-escape": "a backslash that escapes nothing",
    "stray-end": "an end tag without a start, removed",
    "unclosed": "an element that was not closed",
    "unclosed-cdata": "a CDATA section that was not closed",
    "undeclared-prefix": "prefixes that nothing declares",
    "unquoted-attribute": "an attribute without quotes",
}


def configure(parser: Parser) -> None:
    """The arguments of `newburrow mend`."""
    parser.add_argument("path", type=Path, metavar="PATH", help="a file or an archive")
    parser.add_argument(
        "-o", required=True, type=Path, dest="out", metavar="FIXED", help="the file to write"
    )
    add_json(parser)
    add_limits(parser)


def run(options: argparse.Namespace, screen: Screen) -> int:
    """Mend the file, and print each repair in one line."""
    counts: Counter[str] = Counter()
    first: list[Repair] = []

    def tell(repair: Repair) -> None:
        counts[repair.code] += 1
        if options.json:
            first.extend([repair][: _MOST_IN_JSON - len(first)])
            return
        if repair.after:
            change = f"{repair.before}  →  {repair.after}"
        else:
            change = repair.before
        screen.line(f"line {repair.line}: {_WORDS[repair.code]}: {change}")

    changed = mend_path(options.path, options.out, tell, limits_from(options))
    lost = counts["cut-off"] or counts["second-document"]
    if options.json:
        from newburrow.cli.small_forms import of_mended

        screen.json("mend", of_mended(options.out, bool(changed), counts, first))
        if lost:
            return 1
        return 0
    if not changed:
        screen.line(f"It is well-formed; {options.out} is the same, byte for byte.")
        return 0
    screen.line(f"\n{sum(counts.values()):,} repairs, written to {options.out}:")
    for code, number in sorted(counts.items(), key=lambda item: (-item[1], item[0])):
        screen.line(f"  {number:>6,}  {_WORDS[code]}")
    screen.line(f"Next: newburrow survey {in_shell(options.out)}")
    if lost:
        return 1
    return 0
