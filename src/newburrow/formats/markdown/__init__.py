"""A folder or zip of Markdown with front matter in YAML, TOML or JSON."""

from __future__ import annotations

from newburrow.formats.texts.base import TextFolder, begins_with_front_matter
from newburrow.intake.head import Head


class MarkdownFolder(TextFolder):
    """Markdown files with front matter."""

    name = "markdown"
    title = "Markdown with front matter"
    extensions = (".md", ".markdown", ".mdown")

    def recognise(self, head: Head) -> bool:
        """Whether its name and text say that it is one, or it begins with front matter and no name says otherwise."""
        front = begins_with_front_matter(head)
        if super().recognise(head):
            return True
        return bool(front) and front != "json" and not head.name.lower().endswith(_OTHERS)


_OTHERS = (
    ".creole",
    ".wiki",
    ".html",
    ".htm",
    ".xhtml",
)  # of other formats that have front matter too

FORMAT = MarkdownFolder()
