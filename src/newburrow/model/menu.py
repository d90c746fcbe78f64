"""Menus of a site."""

from __future__ import annotations

from typing import ClassVar

from newburrow.model.record import Record


class MenuItem(Record, frozen=True, kw_only=True, omit_defaults=True):
    """One line of a menu of the site."""

    table: ClassVar[str] = "menuitem"

    menu: str = ""  # its name; a site can have several
    label: str = ""
    target: str = ""  # key of an entry, or an address
    parent: str = ""  # key of the item that it is under
    position: int | None = None
