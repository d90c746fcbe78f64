"""Tags in an HTML text, found without its tree (HTML standard section 13.2.5), and which of them nest."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

VOID = frozenset(
    [
        "area",
        "base",
        "br",
        "col",
        "embed",
        "hr",
        "img",
        "input",
        "link",
        "meta",
        "param",
        "source",
        "track",
        "wbr",
    ]
)
# What lists and tables consist of.
PARTS_OF_BLOCKS = frozenset(
    ("li", "dt", "dd", "caption", "thead", "tbody", "tfoot", "tr", "td", "th")
)
HEADINGS = ("h1", "h2", "h3", "h4", "h5", "h6")
# The attributes of a tag (sections 13.2.5.32 to 13.2.5.40). A value in quotes can hold the sign that would end the
# tag; quotes anywhere else are letters.
ATTRIBUTES = (
    r"""(?:[\s/]++|(?:=[^\s/>=]*+|[^\s/>=]++)"""
    r"""(?:\s*+=\s*+(?:"[^"]*+(?:"|\Z)|'[^']*+(?:'|\Z)|(?:[^\s"'>][^\s>]*+)?))?+)*+"""
)
WHOLE_TAG = re.compile(rf"<(/?)([a-zA-Z][^\s/>]*+){ATTRIBUTES}>?")


def changed_in_tags(
    pattern: re.Pattern[str], change: Callable[[re.Match[str]], str], text: str
) -> str:
    """An HTML text with what a pattern finds changed within its tags; words that look the same stay."""
    if not pattern.search(text):
        return text
    return WHOLE_TAG.sub(lambda tag: pattern.sub(change, tag[0]), text)


# Elements of a drawing whose inner text is HTML; and tags of HTML that end a drawing (section 13.2.6.5).
_HOLD_HTML = ("foreignobject", "desc", "title")
_END_DRAWINGS = frozenset(
    (
        "b",
        "big",
        "blockquote",
        "body",
        "br",
        "center",
        "code",
        "dd",
        "div",
        "dl",
        "dt",
        "em",
        "embed",
        "font",
        *HEADINGS,
        "head",
        "hr",
        "i",
        "img",
        "li",
        "listing",
        "menu",
        "meta",
        "nobr",
        "ol",
        "p",
        "pre",
        "ruby",
        "s",
        "small",
        "span",
        "strong",
        "strike",
        "sub",
        "sup",
        "table",
        "tt",
        "u",
        "ul",
        "var",
    )
)


def nesting_tags(text: str) -> Iterator[tuple[re.Match[str], str]]:
    """All tags in their order, each with its name; empty for one that closes itself, as tags in drawings can.

    Where it is in doubt whether a tag is in a drawing, it does not close itself.
    """
    drawing, inner = False, ""  # the element of the drawing that holds HTML
    for found in WHOLE_TAG.finditer(text):
        tag, closes = found[2].lower(), bool(found[1])
        if tag == "svg":
            drawing = not closes and not found[0].endswith("/>")
            inner = ""
        elif drawing and not closes and tag in _END_DRAWINGS:
            drawing = False
        elif drawing and not closes and tag in _HOLD_HTML:
            drawing, inner = False, tag
        elif inner:  # it goes on after nothing but words
            drawing, inner = closes and tag == inner, ""
        closes_itself = drawing and not closes and found[0].endswith("/>")
        yield found, "" if closes_itself else found[2]
