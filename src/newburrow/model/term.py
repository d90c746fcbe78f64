"""The words that entries are filed under."""

from __future__ import annotations

from typing import ClassVar

from newburrow.model.record import Record


class Term(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A tag, a category, or a term of any other vocabulary."""

    table: ClassVar[str] = "term"

    vocabulary: str = "tag"
    slug: str = ""
    name: str = ""
    parent: str = ""  # key of a term
    description: str = ""
