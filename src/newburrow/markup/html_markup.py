"""HTML as a markup: it is what all others are turned into."""

from __future__ import annotations

from newburrow.markup.base import NO_NAMES, NameLookup, NameOf, no_name
from newburrow.markup.frames import as_shown
from newburrow.markup.pictures import as_images


class Html:
    """HTML as bodies hold it."""

    name = "html"
    elements = ()
    keeps_ids = True

    def to_html(self, text: str, _names: NameLookup = NO_NAMES) -> str:
        """The text itself, with pictures as such, and what empty frames hold."""
        return as_shown(as_images(text))

    def from_html(self, text: str, _name_of: NameOf = no_name) -> str:
        """The text itself."""
        return text


MARKUP = Html()
