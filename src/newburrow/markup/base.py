"""What a markup is. To add one: a module here with an instance, named under `newburrow.markups`."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Protocol

from newburrow.core import letters

DEEPEST_WRITTEN = 100  # levels of HTML that a markup can be written from

# The class of a link to a page that is not there; its address is the name of that page.
MISSING_PAGE = "missing-page"

# Gives the name of the page at an address of the new site; empty for an address that no name stands for.
NameOf = Callable[[str], str]


def section_id(words: str) -> str:
    """The id of the heading with these words: small letters, and hyphens for spaces; other signs are left out."""
    small = words.strip().lower()
    if small.isascii():
        kept = re.sub(r"[^\w\s-]", "", small)
    else:
        kept = letters.with_marks(r"[^\w\s-]").sub("", small)
    return re.sub(r"\s+", "-", kept)


class NameLookup(Protocol):
    """What the names mean that links and pictures of a wiki's text use."""

    def link(self, target: str) -> str | None:
        """The address that a link leads to. None for the name of a page that is not there."""
        ...

    def file(self, name: str) -> str:
        """The address of a picture that is called by name; the name itself where it is an address."""
        ...


class NoNames:
    """The lookup for a text that is not from a wiki: every target is an address."""

    def link(self, target: str) -> str | None:
        """The target itself."""
        return target

    def file(self, name: str) -> str:
        """The name itself."""
        return name


NO_NAMES: NameLookup = NoNames()


class Unreadable(Exception):
    """A text cannot be read in its markup; the words say why."""


def no_name(_address: str) -> str:
    """The names of pages for a host whose links are addresses: there are none."""
    return ""


class Markup(Protocol):
    """A way to write a formatted text."""

    name: str

    def to_html(self, text: str, names: NameLookup = NO_NAMES, /) -> str:
        """The text as an HTML fragment.

        A markup whose links name pages asks `names` for their addresses. A link to a page that is not
        there has the class MISSING_PAGE, and the name as its address.

        Raises Unreadable for a text that it cannot read, or that would take minutes.
        """
        ...


class WritableMarkup(Markup, Protocol):
    """A markup that bodies can also be turned into."""

    # the HTML elements that it can express; empty if it takes any HTML
    elements: tuple[str, ...]
    keeps_ids: bool  # whether any element can have an id; else only headings have one, made of their words

    def from_html(self, text: str, name_of: NameOf = no_name, /) -> str:
        """An HTML fragment, nested no deeper than DEEPEST_WRITTEN, in this markup.

        A markup whose links name pages asks `name_of` for the names of those at an address.
        """
        ...
