"""A part of an export that holds content."""

from __future__ import annotations

from msgspec import Struct

from newburrow.dialects.schema import Dialect
from newburrow.intake.encodings import TextEncoding
from newburrow.intake.part import Part
from newburrow.model.reading import WHOLE


class Piece(Struct, frozen=True):
    """A part that holds content, and how to read it."""

    part: Part
    format: str
    dialect: Dialect
    root: str = ""  # name of the root element, where the part is XML
    encoding: TextEncoding | None = None  # that the file is in; None for UTF-8
    share: tuple[float, float] = WHOLE  # of the files that it describes, if it is a manifest
