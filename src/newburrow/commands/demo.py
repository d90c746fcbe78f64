"""The demo: write the export of the demo site, and move it."""

from __future__ import annotations

import tempfile
from pathlib import Path

from msgspec import Struct

from newburrow.commands.move import move_paths
from newburrow.core.problem import refusal
from newburrow.core.progress import Event, Listener, nobody
from newburrow.decide.draft import DraftRequest
from newburrow.demo import export
from newburrow.demo.orchard import Orchard
from newburrow.formats.exports.export import ExportRequest
from newburrow.report.outcome import Outcome

EXPORT, MOVE = "mistlebank-export.zip", "move"


class Demo(Struct, frozen=True):
    """What the demo made."""

    orchard: Orchard
    export: Path
    outcome: Outcome


def demo(out: Path, listener: Listener = nobody, jobs: int | None = None) -> Demo:
    """Write the demo export into a folder and move it to another host.

    `out` is created. Raises BurrowError if it holds anything that the demo did not write, so that nothing
    of the administrator's is overwritten. Two runs give the same bytes.
    """
    if out.is_dir() and (
        others := sorted(path.name for path in out.iterdir() if path.name not in (EXPORT, MOVE))
    ):
        raise refusal(
            "folder-in-use",
            f"The folder {str(out)!r} holds something else ({others[0]}); nothing was written.",
            "Give an empty folder, or a new name, for --out.",
        )
    if out.exists() and not out.is_dir():
        raise refusal(
            "not-a-folder", f"{str(out)!r} is a file.", "Give another name for --out."
        )
    out.mkdir(parents=True, exist_ok=True)
    listener(Event("Drawing the orchard", 0, 1, "steps"))
    with tempfile.TemporaryDirectory(dir=out) as folder:
        made = Path(folder) / EXPORT
        orchard = export.write(made)
        standing = out / EXPORT
        if standing.exists() and standing.read_bytes() != made.read_bytes():
            raise refusal(
                "folder-in-use",
                f"{str(standing)!r} is not the demo's export; it is left alone.",
                "Give a new name for --out.",
            )
        made.replace(standing)
    return Demo(
        orchard,
        standing,
        move_paths(
            DraftRequest(ExportRequest([standing]), orchard.host), out / MOVE, listener, jobs
        ),
    )
