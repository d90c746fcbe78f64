"""Markdown: CommonMark 0.31 with tables, struck-out text, footnotes and other usual extensions, to HTML and back."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from newburrow.markup.base import NO_NAMES, NameLookup, NameOf, no_name
from newburrow.markup.markdown_writer import to_markdown

if TYPE_CHECKING:
    from markdown_it import MarkdownIt


class Markdown:
    """Markdown."""

    name = "markdown"
    elements = ()
    keeps_ids = True

    def to_html(self, text: str, _names: NameLookup = NO_NAMES) -> str:
        """The text as HTML; HTML that is in it passes through, as CommonMark section 6.6 says.

        Raises Unreadable where a paragraph has more brackets than any text, which would take minutes.
        """
        return str(_parser().render(text))

    def from_html(self, text: str, _name_of: NameOf = no_name) -> str:
        """HTML as CommonMark; what CommonMark cannot express stays HTML."""
        return to_markdown(text)


MARKUP = Markdown()


@cache
def _parser() -> MarkdownIt:
    from markdown_it import MarkdownIt  # heavy: imported where it is used
    from mdit_py_plugins.footnote import footnote_plugin

    from newburrow.markup.markdown_extensions import extensions

    return (
        MarkdownIt("commonmark", {"html": True})
        .enable(["table", "strikethrough"])
        .use(footnote_plugin)
        .use(extensions)
    )
