"""The site as a whole."""

from __future__ import annotations

from datetime import datetime
from typing import ClassVar

from newburrow.model.record import Record

# The name in `extra` under which it stands that the export states no web address, and what it states in its place.
UNSTATED_ADDRESS = "unstated address"
# The name under which the address stands that links show, where the export states none.
LINKED_ADDRESS = "address by links"


class Site(Record, frozen=True, kw_only=True, omit_defaults=True):
    """The facts of a site."""

    table: ClassVar[str] = "site"

    title: str = ""
    address: str = ""
    language: str = ""  # BCP 47
    zone: str = ""  # IANA time zone name
    generator: str = ""
    description: str = ""
    dialect: str = ""  # name of the dialect that the export was read in
    front_page: str = ""  # key of an entry; empty where the front page is a list of posts
    written: datetime | None = None  # when the export was written, where it says so

    @property
    def is_addressed(self) -> bool:
        """Whether the export, or a person, has stated the web address."""
        return UNSTATED_ADDRESS not in self.extra
