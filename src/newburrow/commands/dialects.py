"""The dialects that can be read, and a first one for an export that no dialect describes."""

from __future__ import annotations

from pathlib import Path

from newburrow.assess.dialect_draft import drafting
from newburrow.dialects import loader
from newburrow.dialects.schema import Dialect
from newburrow.intake.budget import USUAL, ReadingLimits


def dialects() -> list[Dialect]:
    """The dialects that ship, in alphabetical order."""
    return [loader.load(name) for name in loader.DIALECTS.names()]


def dialect_text(name: str) -> str:
    """The text of a dialect, to copy and change.

    `name` is that of one that ships, or the path of a file ending in .toml. Raises BurrowError,
    naming the nearest, where there is none.
    """
    path: Path = loader.DIALECTS.path_of(name)
    return loader.DIALECTS.text_of(path)


def draft_dialect(export: Path, limits: ReadingLimits = USUAL) -> str:
    """The text of a first dialect for an export, to correct and to name with --dialect.

    Raises BurrowError where the export cannot be read, or holds nothing that a dialect describes.
    """
    return drafting.draft_dialect(export, limits)
