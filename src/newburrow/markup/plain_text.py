"""Plain text: blank lines part paragraphs, line ends are kept. From HTML its words stay, and where links lead."""

from __future__ import annotations

import html
import re

from newburrow.markup.base import NO_NAMES, NameLookup, NameOf, no_name

_SPACE = re.compile(r"[ \t\r\n]+")
_DROPPED = re.compile(
    r"<!--.*?-->|<(script|style|template)\b.*?(?:</\1\s*>|\Z)", re.IGNORECASE | re.DOTALL
)
_LINK = re.compile(
    r"<a\s[^>]*?href\s*=\s*(?:\"([^\"]*)\"|'([^']*)')[^>]*>(.*?)</a\s*>",
    re.IGNORECASE | re.DOTALL,
)
_PICTURE = re.compile(
    r"<img\b[^>]*?\salt\s*=\s*(?:\"([^\"]*)\"|'([^']*)')[^>]*>", re.IGNORECASE
)
_LINE = re.compile(r"<br\b[^>]*>|</(?:tr|dt)\s*>", re.IGNORECASE)
_ITEM = re.compile(r"<li\b[^>]*>", re.IGNORECASE)
_BLOCK = re.compile(
    r"</?(?:p|div|h[1-6]|ul|ol|dl|dd|blockquote|pre|table|caption|figure|figcaption|section|article|aside|header|footer"
    r"|main|nav|address|details|summary|fieldset|legend|center|form|hr)\b[^>]*>",
    re.IGNORECASE,
)
_CELL = re.compile(r"</t[dh]\s*>", re.IGNORECASE)
_CODE = re.compile(r"(<pre\b[^>]*>)(.*?)(</pre\s*>|\Z)", re.IGNORECASE | re.DOTALL)
_KEPT_SPACE, _KEPT_LINE = "\ue000", "\ue001"  # stand for those of code meanwhile
_TAG = re.compile(r"</?[a-zA-Z][^>]*>")


class Text:
    """Plain text to HTML and back."""

    name = "text"
    # Boxes and lists are recognised by blank lines and stars; everything else becomes its words.
    elements = (
        "a",
        "article",
        "br",
        "div",
        "figcaption",
        "figure",
        "li",
        "ol",
        "p",
        "section",
        "span",
        "ul",
    )
    keeps_ids = False

    def to_html(self, text: str, _names: NameLookup = NO_NAMES) -> str:
        """Paragraphs and line breaks; nothing in the text is taken for markup."""
        blocks = re.split(r"\n[ \t]*\n\s*", text.replace("\r\n", "\n").strip())
        return "".join(
            f"<p>{html.escape(block, quote=False).replace(chr(10), '<br>')}</p>"
            for block in blocks
            if block
        )

    def from_html(self, text: str, _name_of: NameOf = no_name) -> str:
        """What a reader sees; the address of a link is in brackets after its words."""
        if "<" not in text:
            return html.unescape(text)
        text = _CODE.sub(_kept_lines, _DROPPED.sub("", text))
        text = _CELL.sub(" ", _SPACE.sub(" ", text))
        text = _PICTURE.sub(lambda found: found[1] or found[2] or "", text)
        text = _LINK.sub(_with_address, text)
        text = _ITEM.sub("\n* ", _BLOCK.sub("\n\n", _LINE.sub("\n", text)))
        lines = [line.strip() for line in html.unescape(_TAG.sub("", text)).split("\n")]
        made = re.sub(r"\n{3,}", "\n\n", "\n".join(lines)).strip()
        return made.replace(_KEPT_SPACE, " ").replace(_KEPT_LINE, "\n")


def _kept_lines(found: re.Match[str]) -> str:
    """Code, the lines and spaces of which stay as they are."""
    code = found[2].strip("\n").replace("\t", "    ").replace("\r\n", "\n")
    return found[1] + code.replace(" ", _KEPT_SPACE).replace("\n", _KEPT_LINE) + found[3]


def _with_address(found: re.Match[str]) -> str:
    target, words = found[1] or found[2] or "", found[3]
    shown = _TAG.sub("", words).strip()
    if not target or target in (shown, f"mailto:{shown}"):
        return words
    return f"{words} ({target})"


MARKUP = Text()
