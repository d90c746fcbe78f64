"""JSON Feed 1.0 and 1.1: reader and writer."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

from newburrow.core.problem import Problem
from newburrow.formats.base import Format, Input, Job, Output, Writer
from newburrow.formats.jsonfeed.reader import JsonFeedReader
from newburrow.formats.jsonfeed.writer import JsonFeedOptions, JsonFeedWriter
from newburrow.intake.head import Head
from newburrow.model.reading import Item

_MARK = b"jsonfeed.org/version/1"


class JsonFeed(Format):
    """JSON Feed."""

    name = "jsonfeed"
    has_menus = True
    title = "JSON Feed 1.0 and 1.1"

    def recognise(self, head: Head) -> bool:
        """Whether it is a JSON object that says it is a JSON Feed."""
        return (
            head.start.removeprefix(b"\xef\xbb\xbf").lstrip().startswith(b"{")
            and _MARK in head.start
        )

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The feed as a site, its items as posts, with the authors and tags they name."""
        return JsonFeedReader(source).records()

    def check_options(self, options: dict[str, Any]) -> None:
        """The options are those of JsonFeedOptions."""
        msgspec.convert(options, JsonFeedOptions)

    def write(self, output: Output, job: Job) -> Writer:
        """One feed with all entries, comments and files."""
        return JsonFeedWriter(output, job)


FORMAT = JsonFeed()
