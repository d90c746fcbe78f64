"""What a markup is. To add one: a module here with an instance, named under `newburrow.markups`."""

from __future__ import annotations

from typing import Protocol


class Markup(Protocol):
    """A way to write a formatted text."""

    name: str

    def to_html(self, text: str) -> str:
        """The text as an HTML fragment."""
        ...


class Written(Markup, Protocol):
    """A markup that bodies can also be turned into."""

    # the HTML elements that it can say; empty for one that takes HTML as it is
    elements: tuple[str, ...]

    def from_html(self, text: str) -> str:
        """An HTML fragment in this markup."""
        ...
