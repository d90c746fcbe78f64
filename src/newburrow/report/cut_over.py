"""`cut-over.csv`: the steps of one move in their order, from the settings of the new host to closing the old account.

Commands in it are to be run in the move folder, so that it says the same wherever that lies.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import date, timedelta

from msgspec import Struct

from newburrow.convert.context import Context
from newburrow.core import csvfile, url
from newburrow.decide.marks import CUT_OVER, CUT_OVER_COLUMNS, Tick
from newburrow.redirects.servers.base import ServerFiles
from newburrow.report.outcome import StepRow
from newburrow.write.output import FolderOutput

_NAMED = 8  # authors, files, ... that a step names
_FROZEN = -1  # days, before the day of the move
_PREPARED = -14
_WATCHED = 14
_CLOSED = 180


class Step(Struct, frozen=True):
    """One step of a move."""

    step: str  # its name, the same from run to run
    day: int  # days after the day on which the sites change over; below 0: before it
    what: str


def write(
    context: Context,
    output: FolderOutput,
    servers: Mapping[str, ServerFiles],
    ticks: Mapping[str, Tick],
) -> list[StepRow]:
    """Write the steps, with what a person has noted beside them; gives them as they were written."""
    day = context.decisions.cut_over.day
    rows = [
        StepRow(
            step.step,
            _when(step.day, day),
            step.what,
            ticks[step.step].done if step.step in ticks else "",
            ticks[step.step].note if step.step in ticks else "",
        )
        for step in steps(context, output, servers)
    ]
    with output.replacing(CUT_OVER) as stream:
        csvfile.write(
            stream,
            CUT_OVER_COLUMNS,
            ((row.step, row.when, row.what, row.done, row.note) for row in rows),
        )
    return rows


def _when(days: int, day: date | None) -> str:
    """When a step is due: a date where the day of the move is decided, else in words."""
    if day:
        return (day + timedelta(days)).isoformat()
    if days == 0:
        return "on the day"
    number = abs(days)
    unit = "day" if number == 1 else "days"
    return f"{number} {unit} {'before' if days < 0 else 'later'}"


def steps(
    context: Context, output: FolderOutput, servers: Mapping[str, ServerFiles]
) -> Iterator[Step]:
    """The steps of this move, in their order; those for which there is nothing to do are left out."""
    yield from _settings(context)
    yield from _before(context)
    yield from _on_the_day(context, output)
    yield from _redirects(context, servers)
    yield from _afterwards(context)


def _settings(context: Context) -> Iterator[Step]:
    """What is set on the new host before anything is imported."""
    host, title = context.host, _name(context)
    if context.old.zone:
        yield Step("zone", _PREPARED, f"On {title}, set the time zone to {context.old.zone}.")
    patterns = [
        f"{kind} {context.decisions.addresses.get(kind) or host.kinds[kind].address}"
        for kind in context.planning.plan.count_kinds()
        if kind in host.kinds
    ]
    if patterns:
        yield Step(
            "permalinks", _PREPARED, f"On {title}, set the addresses to: {', '.join(patterns)}."
        )
    vocabularies = sorted({term.vocabulary for term in context.terms.values()})
    if vocabularies:
        yield Step(
            "vocabularies", _PREPARED, f"Make these vocabularies: {', '.join(vocabularies)}."
        )
    authors = [author.name for author in context.authors.values() if author.name]
    if authors:
        yield Step("authors", _PREPARED, f"Make an account for each author: {_some(authors)}.")
    own = [url.resolve(context.new.address, path) for path in host.site.own_pages]
    if own:
        yield Step(
            "preset-content",
            _PREPARED,
            f"Remove what {title} puts on a new site: {', '.join(own)}.",
        )


def _before(context: Context) -> Iterator[Step]:
    count = context.planning.follow_ups.count_code
    remote = count("remote-file") + count("missing-picture") + count("missing-file")
    if remote:
        yield Step(
            "fetch",
            _PREPARED,
            "Get the files that the export lacks, while the old account still has them: follow-ups.csv has "
            f"{remote:,} under remote-file, missing-picture and missing-file.",
        )
    yield Step(
        "try",
        _PREPARED,
        "Import a few items and look at them: newburrow move . --only ITEM.",
    )
    yield Step(
        "freeze", _FROZEN, "Stop writing and commenting on the old site; tell all authors so."
    )
    yield Step("last-export", _FROZEN, "Export the old site a last time.")


def _on_the_day(context: Context, output: FolderOutput) -> Iterator[Step]:
    yield Step(
        "catch-up",
        0,
        "Put that export into old.paths of move.toml, then run: newburrow move .",
    )
    yield Step("verify", 0, "Hold the result against the old site: newburrow verify .")
    title = _name(context)
    parts = _parts(output)
    for number, part in enumerate(parts, 1):
        of = f" ({number} of {len(parts)})" if len(parts) > 1 else ""
        name = f"import-{number}" if len(parts) > 1 else "import"
        yield Step(name, 0, f"Import {part} into {title}{of}.")
    count = context.planning.follow_ups.count_code
    waiting = count("state-changed")
    if waiting:
        yield Step(
            "set-live",
            0,
            f"Set the entries live that came as drafts or at another time: {waiting:,}, in follow-ups.csv under "
            "state-changed.",
        )
    if count("menu") or count("front-page"):
        yield Step("menus", 0, "Set the menus and the front page as follow-ups.csv says.")


def _parts(output: FolderOutput) -> list[str]:
    """What is handed over, in order: the files right in `new/`, then the one folder beside them; else all of it."""
    inner = [name.removeprefix("new/") for name in output.folder.written_below("new/")]
    files = sorted(name for name in inner if "/" not in name)
    folders = {name.partition("/")[0] for name in inner if "/" in name}
    if not files or len(folders) > 1:
        return ["the folder new/"]
    return [f"new/{name}" for name in files] + [f"the files in new/{name}/" for name in folders]


def _redirects(context: Context, servers: Mapping[str, ServerFiles]) -> Iterator[Step]:
    for server in servers:
        yield Step(
            f"redirects-{server}",
            0,
            f"Put the redirects into place: redirects/{server}/, as newburrow redirects . --for {server} says.",
        )
    if servers and context.old.address:
        yield Step(
            "follow",
            0,
            f"Ask the old site for every old address: newburrow redirects . --follow {context.old.address}",
        )
    yield Step("sitemap", 0, "Hand redirects/sitemap.xml to the search engines.")


def _afterwards(context: Context) -> Iterator[Step]:
    if context.planning.plan.count_kinds():
        yield Step(
            "watch",
            _WATCHED,
            "Look into the log of the old server for addresses that answer 404; name them in old.known of move.toml "
            "and move again.",
        )
    yield Step(
        "close",
        _CLOSED,
        "Close the old account, and not before: its files and redirects are asked for until then. Keep the domain.",
    )


def _name(context: Context) -> str:
    """What the new host is called."""
    return (context.host.title or context.host.name).partition(",")[0]


def _some(names: Sequence[str]) -> str:
    shown = ", ".join(names[:_NAMED])
    more = len(names) - _NAMED
    if more > 0:
        return f"{shown} and {more:,} more (authors.csv)"
    return shown
