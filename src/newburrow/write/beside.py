"""What is written beside the host's own files: what it has no place for, and the table of new ids."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import chain

from newburrow.convert.body.comment_place import DATA_FILE
from newburrow.convert.context import Context
from newburrow.convert.plan import ids
from newburrow.core import csvfile
from newburrow.core.problem import NOWHERE, Problem
from newburrow.write.output import IDS, FolderOutput

_ID_COLUMNS = ("object", "title", "old_id", "new_id")
_UNKNOWN, _UNKNOWN_COLUMNS = "redirects/unknown.csv", ("address", "visits")


def write_data_file(context: Context, output: FolderOutput) -> None:
    """Write what the new host has no place for as JSON Lines; no file if there is nothing."""
    lines = context.planning.data_lines.all()
    first = next(lines, None)
    if first is None:
        return
    with output.open(DATA_FILE) as stream:
        for line in (first, *lines):
            stream.write(f"{line}\n".encode("utf-8", "replace"))


def check_total(context: Context, output: FolderOutput) -> None:
    """Add a follow-up where all that was written is more than the host takes."""
    most = context.host.limits.total_bytes
    if most and output.written > most:
        problem = Problem.at(
            NOWHERE,
            "host-limit",
            message=f"What was written has {output.written:,} bytes; the host accepts {most:,} in all.",
        )
        context.journal.follow_ups.add(problem)


def write_ids(context: Context, output: FolderOutput) -> None:
    """Write the ids that changed, where ids were given anew."""
    if context.has_ids:
        with output.plain(IDS) as stream:
            csvfile.write(stream, _ID_COLUMNS, ids.changed(context))


def write_unknown(unknown: Iterator[tuple[str, int]], output: FolderOutput) -> None:
    """Write the old addresses of which nothing is known, with their visits; no file where there are none."""
    for first in unknown:
        with output.plain(_UNKNOWN) as stream:
            csvfile.write(stream, _UNKNOWN_COLUMNS, chain([first], unknown))
