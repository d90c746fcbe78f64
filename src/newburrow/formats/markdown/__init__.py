"""A folder or zip of Markdown with front matter in YAML, TOML or JSON."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

from newburrow.core.problem import Problem
from newburrow.dialects.schema import Dialect
from newburrow.formats.base import Format, Input, Job, Output, Writer
from newburrow.formats.markdown import reader
from newburrow.formats.markdown.front_matter import kind_of
from newburrow.formats.markdown.writer import MarkdownOptions, MarkdownWriter
from newburrow.intake.head import Head
from newburrow.model.reading import Item

_NAMES = (".md", ".markdown", ".mdown")


class MarkdownFolder(Format):
    """Markdown files with front matter."""

    name = "markdown"
    is_tree = True
    has_menus = True
    title = "Markdown with front matter"

    def recognise(self, head: Head) -> bool:
        """Whether it begins with front matter; without, whether its name and its text say that it is one."""
        first = head.start.partition(b"\n")[0].decode("utf-8", "replace")
        called = head.name.lower().endswith(_NAMES)
        if kind_of(first) == "json":
            return called
        return bool(kind_of(first)) or (
            called and b"\0" not in head.start and bool(head.start.strip())
        )

    def plain(self) -> Dialect:
        """The words most in use."""
        return reader.PLAIN

    def read(self, source: Input) -> Iterator[Item | Problem]:
        """The entry of one file."""
        return reader.read(source)

    def check_options(self, options: dict[str, Any]) -> None:
        """The options are those of MarkdownOptions."""
        msgspec.convert(options, MarkdownOptions)

    def write(self, output: Output, job: Job) -> Writer:
        """A folder of texts and data files."""
        return MarkdownWriter(output, job)


FORMAT = MarkdownFolder()
