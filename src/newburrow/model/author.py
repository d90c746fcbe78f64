"""The people who write entries."""

from __future__ import annotations

from typing import ClassVar

from newburrow.model.record import Record


class Author(Record, frozen=True, kw_only=True, omit_defaults=True):
    """A person who writes entries."""

    table: ClassVar[str] = "author"

    name: str = ""
    login: str = ""
    email: str = ""
    address: str = ""  # of their own site
    about: str = ""
