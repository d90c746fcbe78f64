"""RSS 2.0: the reader.

The elements of RSS 2.0 itself and of its modules content, Dublin Core, atom and slash are known here;
all else is what the dialect says of it. Namespaces are matched by URI. What neither knows is kept in
`extra` under its name, so that nothing is lost.
"""

from __future__ import annotations

from collections.abc import Iterator

from newburrow.formats.base import Format, Input
from newburrow.formats.rss.channel import Channel
from newburrow.intake.part import Head
from newburrow.model import Record
from newburrow.problem import Problem


class Rss(Format):
    """RSS 2.0 with its common modules."""

    name = "rss"
    title = "RSS 2.0"

    def recognise(self, head: Head) -> bool:
        """Whether the root element is `rss`."""
        return head.prolog is not None and head.prolog.root == "rss"

    def read(self, source: Input) -> Iterator[Record | Problem]:
        """The channel as a site, its items as entries and media, with authors, terms and comments."""
        return Channel(source).records()


FORMAT = Rss()
