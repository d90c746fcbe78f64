"""Selectors of what stands on an HTML page: CSS, and facts that pages state in open vocabularies."""

from __future__ import annotations

import re

from selectolax.lexbor import LexborHTMLParser, SelectolaxError

from newburrow.dialects.selector import check_length

# What a page or its place says by itself; the brackets keep these apart from elements.
OWN_FACTS = (
    "title",
    "body",
    "published",
    "updated",
    "author",
    "summary",
    "language",
    "permalink",
    "tags",
    "categories",
    "lead_picture",
    "kind",
    "parent",
    "comments",
    "menu",
    "id",
    "address",
    "shown_address",
    "text",
    "label",
    "target",
    "position",
    "path",
    "place",
    "folder",
    "name",
)
_ATTRIBUTE = re.compile(r"(?P<css>.*?)\s*@(?P<name>[\w:-]+)\s*\Z", re.DOTALL)
_PROBE = LexborHTMLParser("<p></p>")


class CssSelector:
    """A CSS selector (Selectors Level 4, as far as the parser knows it), also of an attribute: `time @datetime`.

    `.` is the element itself and `@name` its attribute; `(title)` and the like are facts that the page states
    by itself. Raises ValueError, saying why, where the text is none of these.
    """

    def __init__(self, text: str) -> None:
        check_length(text)
        self.fact = self.css = self.attribute = ""
        if text.startswith("(") and text.endswith(")"):
            self.fact = text[1:-1]
            if self.fact not in OWN_FACTS:
                raise ValueError(
                    f"{text!r} is not a fact of a page; the facts are ({'), ('.join(OWN_FACTS)})"
                )
            return
        found = _ATTRIBUTE.fullmatch(text)
        if found:
            text, self.attribute = found["css"], found["name"].lower()
        self.css = text.strip()
        if self.css == ".":
            self.css = ""
        if not self.css and not self.attribute and text != ".":
            raise ValueError("an empty text is not a CSS selector")
        if self.css:
            try:
                _PROBE.css(self.css)
            except SelectolaxError:
                raise ValueError(f"{self.css!r} is not a CSS selector") from None
