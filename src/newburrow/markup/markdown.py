"""Markdown: CommonMark 0.31 with tables, struck-out text and footnotes, to HTML and back."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from newburrow.markup.tomarkdown import to_markdown

if TYPE_CHECKING:
    from markdown_it import MarkdownIt


class Markdown:
    """Markdown."""

    name = "markdown"

    def to_html(self, text: str) -> str:
        """The text as HTML; HTML that stands in it passes through, as CommonMark section 6.6 says."""
        return str(_parser().render(text))

    def from_html(self, text: str) -> str:
        """HTML as Markdown; what that cannot say stays HTML."""
        return to_markdown(text)


MARKUP = Markdown()


@cache
def _parser() -> MarkdownIt:
    from markdown_it import MarkdownIt  # heavy: imported where it is used
    from mdit_py_plugins.footnote import footnote_plugin

    return MarkdownIt("commonmark", {"html": True}).enable(["table", "strikethrough"]).use(footnote_plugin)
