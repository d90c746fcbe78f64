"""Embeds: what shows a video or frame of another site, in the form that the new host has for it.

It comes as a frame (`iframe`, `object`, `embed`), as a macro that a dialect turns into one, or as the address of a page
alone in a paragraph. Which address a frame has and which its page has, dialects say in [[embeds]].
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterable

from selectolax.lexbor import LexborNode

from newburrow.core import url_pattern
from newburrow.dialects.schema import Embed
from newburrow.markup.html import Fragment

ELEMENTS = ("iframe", "object", "embed", "frame")
FRAME, PAGE = "frame", "address"
_ALONE = re.compile(r"https?://\S+")


class Embeds:
    """The embeds that dialects know, and the form of the new host."""

    def __init__(self, known: Iterable[Embed], form: str) -> None:
        self.known, self.form = list(known), form
        self._frames = [(url_pattern.matcher(embed.frame), embed) for embed in self.known]
        self._starts = [embed.page.partition("{")[0] for embed in self.known]
        self._pages = [(url_pattern.matcher(embed.page), embed) for embed in self.known]

    def page_of(self, frame: str) -> str:
        """The address of the page for what a frame shows; the frame's own address if no dialect knows it."""
        for matcher, embed in self._frames:
            if found := matcher.fullmatch(frame):
                return url_pattern.expand(embed.page, found.groupdict())
        return frame

    def frame_of(self, page: str) -> str:
        """The address of the frame that shows a page; empty if no dialect knows it."""
        for matcher, embed in self._pages:
            if found := matcher.fullmatch(page):
                return url_pattern.expand(embed.frame, found.groupdict())
        return ""

    def in_form(self, frame: str, title: str) -> str:
        """The new host's own form of an embedded frame, as HTML; empty if it has none."""
        page = self.page_of(frame)
        if self.form == FRAME:
            if title:
                named = f' title="{html.escape(title)}"'
            else:
                named = ""
            return f'<iframe src="{html.escape(frame)}"{named}></iframe>'
        if self.form == PAGE:
            return f"<p>{html.escape(page, quote=False)}</p>"
        return self.form.replace("{address}", html.escape(page)).replace(
            "{frame}", html.escape(frame)
        )

    def alone(self, fragment: Fragment, text: str) -> list[tuple[LexborNode, str]]:
        """Paragraphs that hold nothing but the address of a page that can be framed, each with its frame.

        `text` is what the fragment was made of.
        """
        if not any(start in text for start in self._starts):
            return []
        found = []
        for node in fragment.select("p"):
            words = (node.text() or "").strip()
            children = [
                child
                for child in node.iter(include_text=True)
                if (child.text() or "").strip() or child.tag == "img"
            ]
            plain = len(children) == 1 and children[0].tag in ("-text", "a")
            if plain and _ALONE.fullmatch(words) and (frame := self.frame_of(words)):
                found.append((node, frame))
        return found
