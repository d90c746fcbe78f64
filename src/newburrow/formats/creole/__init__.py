"""A wiki as a folder or zip of Creole 1.0 pages, with front matter, history and attachments."""

from __future__ import annotations

from newburrow.formats.texts.base import TextFolder


class CreoleFolder(TextFolder):
    """Creole files, with or without front matter."""

    name = "creole"
    title = "Creole 1.0 pages"
    extensions = (".creole", ".wiki")
    always_said = ("title",)  # a page without one is known by its name


FORMAT = CreoleFolder()
