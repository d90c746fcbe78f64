"""Textile to HTML."""

from __future__ import annotations


class Textile:
    """Textile."""

    name = "textile"

    def to_html(self, text: str) -> str:
        """The text as HTML; HTML that stands in it passes through."""
        from textile import textile  # heavy: imported where it is used

        return str(textile(text, html_type="html5"))


MARKUP = Textile()
