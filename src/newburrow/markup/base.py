"""What a markup is. To add one: a module here with an instance, named under `newburrow.markups`."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

DEEPEST_WRITTEN = 100  # levels of HTML that a markup can be written from

# Gives the old address of the page that has a name; empty where no page has it.
PageLookup = Callable[[str], str]


class Unreadable(Exception):
    """A text cannot be read in its markup; the words say why."""


def no_pages(_name: str) -> str:
    """The lookup of page names for a text that is not from a wiki: it knows none."""
    return ""


class Markup(Protocol):
    """A way to write a formatted text."""

    name: str

    def to_html(self, text: str, pages: PageLookup = no_pages, /) -> str:
        """The text as an HTML fragment.

        A markup whose links name pages asks `pages` for their addresses. A name that no page has is
        left as it is written, so that it is found as a dead link.

        Raises Unreadable for a text that it cannot read, or that would take minutes.
        """
        ...


class WritableMarkup(Markup, Protocol):
    """A markup that bodies can also be turned into."""

    # the HTML elements that it can express; empty if it takes any HTML
    elements: tuple[str, ...]

    def from_html(self, text: str) -> str:
        """An HTML fragment, nested no deeper than DEEPEST_WRITTEN, in this markup."""
        ...
