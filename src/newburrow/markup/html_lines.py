"""HTML whose paragraphs are blank lines and whose line ends are line breaks, as many editors keep it."""

from __future__ import annotations

import re

from newburrow.markup.base import NO_NAMES, NameLookup
from newburrow.markup.frames import as_shown
from newburrow.markup.html_tags import HEADINGS
from newburrow.markup.pictures import as_images

_BLOCKS = (
    "address",
    "article",
    "aside",
    "blockquote",
    "center",
    "dd",
    "details",
    "dialog",
    "div",
    "dl",
    "dt",
    "fieldset",
    "figcaption",
    "figure",
    "footer",
    "form",
    *HEADINGS,
    "header",
    "hr",
    "iframe",
    "li",
    "main",
    "nav",
    "object",
    "ol",
    "p",
    "pre",
    "script",
    "section",
    "style",
    "summary",
    "table",
    "tbody",
    "td",
    "textarea",
    "tfoot",
    "th",
    "thead",
    "tr",
    "ul",
    "video",
    "audio",
)
_TAG = re.compile(
    rf"(<!--.*?(?:-->|\Z)|</?(?:{'|'.join(_BLOCKS)})(?![\w-])[^>]*>)", re.IGNORECASE | re.DOTALL
)
_NAME = re.compile(r"</?([a-z0-9]+)", re.IGNORECASE)
_BLANK = re.compile(r"\n[ \t]*\n\s*")
_VERBATIM = frozenset(("pre", "script", "style", "textarea"))
_FLOWING = frozenset(("blockquote", "div", "section", "article", "aside", "main", "center"))
_HOLDS_PARTS = frozenset(
    (
        "ul",
        "ol",
        "dl",
        "table",
        "thead",
        "tbody",
        "tfoot",
        "tr",
        "figure",
        "object",
        "video",
        "audio",
    )
)
_EMPTY = frozenset(("hr",))


class HtmlLines:
    """HTML with blank lines for paragraphs."""

    name = "html-lines"

    def to_html(self, text: str, _names: NameLookup = NO_NAMES) -> str:
        """The text with its paragraphs and line breaks marked up; what is in blocks already stays as it is."""
        text = text.replace("\r\n", "\n").replace("\r", "\n")
        open_blocks: list[str] = []
        made = []
        for piece in _TAG.split(text):
            if piece.startswith("<") and not piece.startswith("<!--"):
                found = _NAME.match(piece)
            else:
                found = None
            if found:
                name = found[1].lower()
            else:
                name = ""
            if name in _BLOCKS and _TAG.fullmatch(piece):
                _step(open_blocks, name, piece)
                made.append(piece)
            else:
                made.append(piece if piece.startswith("<!--") else _inline(piece, open_blocks))
        return as_shown(as_images("".join(made)))


MARKUP = HtmlLines()


def _step(open_blocks: list[str], name: str, tag: str) -> None:
    """Keep count of the blocks that are open; an end tag closes the nearest of its name."""
    if tag.startswith("</"):
        if name in open_blocks:
            while open_blocks.pop() != name:
                pass
    elif name not in _EMPTY and not tag.endswith("/>"):
        open_blocks.append(name)


def _inline(text: str, open_blocks: list[str]) -> str:
    """What is between two tags of blocks, in paragraphs where it may have them."""
    if open_blocks:
        around = open_blocks[-1]
    else:
        around = ""
    if not text.strip() or around in _HOLDS_PARTS or not _VERBATIM.isdisjoint(open_blocks):
        return text
    blocks = [_broken(block) for block in _BLANK.split(text.strip()) if block]
    if (
        around in _FLOWING
        or not around
        or (len(blocks) > 1 and around in ("li", "td", "th", "dd"))
    ):
        return "".join(f"<p>{block}</p>\n" for block in blocks)
    if around in ("p", "li", "td", "th", "dd", "figcaption"):
        return _broken(text)
    return text


def _broken(text: str) -> str:
    """Each line end that is not one already as a line break."""
    return re.sub(r"(?<!<br>)(?<!<br/>)(?<!<br />)\n(?=.)", "<br>\n", text, flags=re.IGNORECASE)
