"""The paths of what the new host holds: its own export, or a list of its addresses."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from newburrow.core.problem import refusal


def check(paths: Sequence[Path]) -> None:
    """Raises BurrowError for a path at which nothing is."""
    for path in paths:
        if not path.exists():
            raise refusal(
                "no-such-file",
                f"There is no file or folder {str(path)!r}.",
                "Correct it (--holds, or new.holds in move.toml).",
            )
