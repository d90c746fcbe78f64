"""Textile to HTML."""

from __future__ import annotations

import re

from newburrow.core.time_limit import TimeLimitReached, time_limit
from newburrow.markup.base import NO_NAMES, NameLookup, Unreadable

_FOOTNOTE = re.compile(r"\[\d+")
_RANDOM = re.compile(r"\b(fnrev|fn)[0-9a-f]{32}-(\d+)\b")
_MOST_FOOTNOTES = 400  # the parser takes quadratic time on their number
_SECONDS, _SECONDS_A_SIGN = 2.0, 0.0001  # an honest text takes a hundredth of it


class Textile:
    """Textile."""

    name = "textile"

    def to_html(self, text: str, _names: NameLookup = NO_NAMES) -> str:
        """The text as HTML; HTML that is in it passes through.

        Raises Unreadable for one that the parser fails on, or that takes it more than a bound of time.
        """
        if len(_FOOTNOTE.findall(text)) > _MOST_FOOTNOTES:
            raise Unreadable(f"it has more than {_MOST_FOOTNOTES} footnotes")
        from textile import textile  # heavy: imported where it is used

        try:
            with time_limit(_SECONDS + _SECONDS_A_SIGN * len(text)):
                made = str(textile(text, html_type="html5"))
        except TimeLimitReached:
            raise Unreadable("it would take too long") from None
        except Exception as error:  # the parser has faults of its own
            raise Unreadable(f"its parser fails on it ({type(error).__name__})") from None
        # Its footnotes have random names, which no two runs may have.
        return _RANDOM.sub(r"\1\2", made)


MARKUP = Textile()
