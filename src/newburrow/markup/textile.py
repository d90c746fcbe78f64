"""Textile to HTML."""

from __future__ import annotations

import re

from newburrow.markup.base import PageLookup, no_pages
from newburrow.markup.html import TooDeep

_FOOTNOTE = re.compile(r"\[\d+")
_RANDOM = re.compile(r"\b(fnrev|fn)[0-9a-f]{32}-(\d+)\b")
_MOST_FOOTNOTES = 400  # the parser takes quadratic time on their number


class Textile:
    """Textile."""

    name = "textile"

    def to_html(self, text: str, _pages: PageLookup = no_pages) -> str:
        """The text as HTML; HTML that is in it passes through.

        Raises TooDeep for one whose footnotes alone would take minutes.
        """
        if len(_FOOTNOTE.findall(text)) > _MOST_FOOTNOTES:
            raise TooDeep
        from textile import textile  # heavy: imported where it is used

        # Its footnotes have random names, which no two runs may have.
        return _RANDOM.sub(r"\1\2", str(textile(text, html_type="html5")))


MARKUP = Textile()
