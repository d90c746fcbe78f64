"""What the formats have in common that are a folder of texts in one markup."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

from newburrow.core.problem import Problem
from newburrow.dialects.schema import Dialect
from newburrow.formats.base import Format, Input, Job, Output, Writer
from newburrow.formats.texts import reader
from newburrow.formats.texts.front_matter import kind_of
from newburrow.formats.texts.writer import TextOptions, TextWriter
from newburrow.intake.head import Head
from newburrow.model.reading import Item


class TextFolder(Format):
    """Texts in one markup, each in a file of its own with front matter. A subclass names the markup and its files."""

    is_tree = is_text = has_history = True
    has_menus = True
    extensions: tuple[str, ...]  # of the files; the first is the one that is written

    def recognise(self, head: Head) -> bool:
        """Whether its name says that it is such a text, and it holds one."""
        named = head.name.lower().endswith(self.extensions)
        return named and b"\0" not in head.start and bool(head.start.strip())

    def plain(self) -> Dialect:
        """The words most in use."""
        return reader.plain_dialect(self.name)

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The records of one file: an entry, or a state of one in its history."""
        return reader.read(source, self.name)

    def check_options(self, options: dict[str, Any]) -> None:
        """The options are those of TextOptions."""
        msgspec.convert(options, TextOptions)

    def write(self, output: Output, job: Job) -> Writer:
        """A folder of texts and data files."""
        return TextWriter(output, job, self.extensions[0])


def begins_with_front_matter(head: Head) -> str:
    """`yaml`, `toml` or `json` where a part begins with front matter; else empty."""
    return kind_of(head.start.partition(b"\n")[0].decode("utf-8", "replace"))
