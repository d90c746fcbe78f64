"""RSS 2.0 and its elders 0.91, 0.92 and 1.0, with their common modules: reader and writer."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

from newburrow.core.problem import Problem
from newburrow.formats.base import Format, Input, Job, Output, Writer
from newburrow.formats.feed.channel import Channel
from newburrow.formats.feed.feed_map import RSS_1
from newburrow.formats.rss.reader import RDF_ROOT, SPEECH, SPEECH_1, Rss1Item, RssItem
from newburrow.formats.rss.writer import RssOptions, RssWriter
from newburrow.intake.head import Head
from newburrow.model.reading import Item

# RSS 1.0 and 0.90, which have the same elements
_RDF = (
    RSS_1[1:-1],
    "http://my.netscape.com/rdf/simple/0.9/",
    "http://channel.netscape.com/rdf/simple/0.9/",
)


class Rss(Format):
    """RSS with its common modules."""

    name = "rss"
    has_menus = True  # where the dialect has
    title = "RSS 0.90 to 2.0"

    def recognise(self, head: Head) -> bool:
        """Whether the root element is `rss`, in any namespace, or that of RDF with the namespace of RSS 1.0 or 0.90."""
        if head.prolog is None:
            return False
        if head.prolog.root.rpartition("}")[2] == "rss":
            return True
        return head.prolog.root == RDF_ROOT and any(
            space in head.prolog.namespaces for space in _RDF
        )

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The channel as a site, its items as entries and media, with authors, terms and comments."""
        if source.root == RDF_ROOT:
            return Channel(source, SPEECH_1, Rss1Item).records()
        return Channel(source, SPEECH, RssItem).records()

    def check_options(self, options: dict[str, Any]) -> None:
        """The options are those of RssOptions."""
        msgspec.convert(options, RssOptions)

    def write(self, output: Output, job: Job) -> Writer:
        """RSS 2.0, in as many files as the host's limit asks for."""
        return RssWriter(output, job)


FORMAT = Rss()
