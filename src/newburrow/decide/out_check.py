"""Nothing is written into what is read: an export would grow by its own result."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from newburrow.core.problem import refusal


def check(paths: Iterable[Path], out: Path) -> None:
    """Raises BurrowError where `out` is one of these folders or lies in one."""
    target = out.resolve()
    for path in paths:
        source = path.resolve()
        if source.is_dir() and target.is_relative_to(source):
            raise refusal(
                "out-inside",
                f"{str(out)!r} lies in {str(path)!r}, which is read.",
                "Name a place outside of it.",
            )
