"""A condition on an entry, as `move.toml` writes it: for choosing, and for rules."""

from __future__ import annotations

from datetime import date

from msgspec import Struct


class Condition(Struct, frozen=True, forbid_unknown_fields=True):
    """An entry must match every key, and any value of a list. An empty condition matches every entry."""

    kinds: tuple[str, ...] = ()
    states: tuple[str, ...] = ()
    authors: tuple[str, ...] = ()  # key, login, name or e-mail address
    terms: tuple[str, ...] = ()  # key, slug or name; what is nested in it counts too
    fields: dict[str, str] = {}  # name -> value; "*" matches any value
    addresses: tuple[str, ...] = ()  # the path, with * for any characters: "/2019/*"
    items: tuple[str, ...] = ()  # id, slug, or address
    under: tuple[str, ...] = ()  # id or slug of an entry that it is below
    words: tuple[str, ...] = ()  # in the title or the body, in any case, whole words
    outside_sitemap: bool = False  # a page that the sitemap of the old site does not list
    copies: bool = False  # a page that names another page of the old site as its original
    since: date | None = None  # published on this day or later
    until: date | None = None  # published on this day or before

    def names(self) -> list[str]:
        """The names of the settings in the condition, for a reason that a person reads."""
        return [
            name
            for name in self.__struct_fields__
            if getattr(self, name) != getattr(Condition(), name)
        ]
