"""Atom 1.0 (RFC 4287) with threading (RFC 4685) and drafts (RFC 5023): reader and writer."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

from newburrow.core.problem import Problem
from newburrow.formats.atom.reader import ATOM_03, SPEECH, SPEECH_03, Atom03Entry, AtomEntry
from newburrow.formats.atom.writer import AtomOptions, AtomWriter
from newburrow.formats.base import Format, Input, Job, Output, Writer
from newburrow.formats.feed.channel import Channel
from newburrow.formats.feed.feed_map import ATOM
from newburrow.intake.head import Head
from newburrow.model.reading import Item


class Atom(Format):
    """Atom 1.0 with threading."""

    name = "atom"
    title = "Atom 1.0 (RFC 4287) and 0.3"
    always_said = (
        "authors",
        "updated",
        "comment: author",
        "comment: published",
    )  # RFC 4287 4.1.2

    def recognise(self, head: Head) -> bool:
        """Whether the root element is `feed` of Atom 1.0 or 0.3."""
        return head.prolog is not None and head.prolog.root in (ATOM + "feed", ATOM_03 + "feed")

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The feed as a site; its entries as entries, comments and files."""
        if source.root.startswith(ATOM_03):
            return Channel(source, SPEECH_03, Atom03Entry).records()
        return Channel(source, SPEECH, AtomEntry).records()

    def check_options(self, options: dict[str, Any]) -> None:
        """The options are those of AtomOptions."""
        msgspec.convert(options, AtomOptions)

    def write(self, output: Output, job: Job) -> Writer:
        """One feed document with all entries, comments and files."""
        return AtomWriter(output, job)


FORMAT = Atom()
