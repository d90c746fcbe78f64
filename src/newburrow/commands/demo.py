"""The demo: write the exports of a demo site, and move one of them."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from newburrow.commands.move import move_paths
from newburrow.core.problem import refusal
from newburrow.core.progress import Event, Listener, nobody
from newburrow.decide.draft import DraftRequest
from newburrow.demo import course, export, growers, wiki_exports
from newburrow.formats.exports.export import ExportRequest
from newburrow.report.outcome import Outcome

MOVE = "move"
SITES = ("blog", "wiki", "course")


class Demo(Struct, frozen=True):
    """What the demo made."""

    title: str  # of the site
    dialect: str  # that the moved export is in
    host: str  # that it was moved to
    exports: list[Path]  # of the site; the first was moved
    outcome: Outcome


class _Written(Struct, frozen=True):
    """A demo site with its exports written."""

    title: str
    dialects: list[str]
    host: str
    names: list[str]


def demo(
    out: Path, site: str = "blog", listener: Listener = nobody, jobs: int | None = None
) -> Demo:
    """Write the exports of a demo site (one of SITES) into a folder and move the first to another host.

    `out` is created. Raises BurrowError if it holds anything that the demo did not write, so that nothing
    of the administrator's is overwritten. Two runs give the same bytes.
    """
    write = _SITES[site]
    listener(Event("Drawing the orchard", 0, 1, "steps"))
    if out.exists() and not out.is_dir():
        raise refusal(
            "not-a-folder", f"{str(out)!r} is a file.", "Give another name for --out."
        )
    with tempfile.TemporaryDirectory() as folder:
        written = write(Path(folder))
        _check_free(out, written.names)
        out.mkdir(parents=True, exist_ok=True)
        for name in written.names:
            _put(Path(folder) / name, out / name)
    exports = [out / name for name in written.names]
    request = DraftRequest(ExportRequest([exports[0]]), written.host)
    outcome = move_paths(request, out / MOVE, listener, jobs)
    return Demo(written.title, written.dialects[0], written.host, exports, outcome)


def _check_free(out: Path, names: list[str]) -> None:
    if out.is_dir():
        found = sorted(path.name for path in out.iterdir())
    else:
        found = []
    others = [name for name in found if name not in (*names, MOVE)]
    if others:
        raise refusal(
            "folder-in-use",
            f"The folder {str(out)!r} holds something else ({others[0]}); nothing was written.",
            "Give an empty folder, or a new name, for --out.",
        )


def _put(made: Path, standing: Path) -> None:
    """Put an export where it belongs, unless something else has its name."""
    data = made.read_bytes()
    if standing.exists() and standing.read_bytes() != data:
        raise refusal(
            "folder-in-use",
            f"{str(standing)!r} is not the demo's export; it is left alone.",
            "Give a new name for --out.",
        )
    standing.write_bytes(data)


def _blog(folder: Path) -> _Written:
    name = "mistlebank-export.zip"
    orchard = export.write(folder / name)
    return _Written(orchard.site.title, [orchard.dialect], orchard.host, [name])


def _wiki(folder: Path) -> _Written:
    wiki = growers.build()
    names = [f"growers-{dialect}.zip" for dialect in wiki.exports]
    for dialect, name in zip(wiki.exports, names, strict=True):
        wiki_exports.write(wiki, dialect, folder / name)
    return _Written(wiki.site.title, list(wiki.exports), wiki.host, names)


def _course(folder: Path) -> _Written:
    grafting = course.build()
    names = [f"grafting-{host}.zip" for host in grafting.exports]
    for host, name in zip(grafting.exports, names, strict=True):
        course.write(grafting, host, folder / name)
    return _Written(grafting.site.title, grafting.exports, grafting.host, names)


_SITES: dict[str, Callable[[Path], _Written]] = {
    "blog": _blog,
    "wiki": _wiki,
    "course": _course,
}
