"""One HTML page, parsed by the algorithm of the HTML standard (section 13.2), and where its addresses start."""

from __future__ import annotations

import re
from urllib.parse import quote

from selectolax.lexbor import LexborHTMLParser, LexborNode

from newburrow.core import mirrored, url
from newburrow.formats.html.needed_words import PageWords
from newburrow.markup.html import DEEPEST, deeper_than, flattened, with_few_attributes
from newburrow.markup.html_tags import VOID, WHOLE_TAG

_HEAD = 2000  # characters in which a page says what it is
# The mark of the web, which browsers write into a page that they save.
_SAVED_FROM = re.compile(
    r"<!--\s*saved from url=\(\d+\)(https?://[^\s<>]+)\s*-->", re.IGNORECASE
)
_XHTML = re.compile(r"\A\s*<\?xml\s|<!DOCTYPE[^>]*XHTML|<html[^>]*xmlns\s*=", re.IGNORECASE)
_OF_XHTML = ("<?xml", "xhtml", "xmlns")  # one of which is in what the expression finds
# What stands between the title of a page and the name of its site.
SITE_IN_BRACKETS = re.compile(r".+?\s\((.+)\)")
SITE_BETWEEN = r"\s+[-\u2013\u2014|\u00b7\u2022\u00bb\u00ab\u203a/~]\s+|\s*(?:::|\u2014|\u00b7|\||\u00bb)\s*|\s*:\s+"


class Document:
    """One page of a site saved as HTML."""

    def __init__(self, text: str, place: str, site: str, site_title: str) -> None:
        """`place` is the path of the page below the site's address `site`; `site_title` is left out of titles."""
        if _is_xhtml(text):
            text = _closed(text)
        text, _cut = with_few_attributes(text)
        self.was_deep = deeper_than(text, DEEPEST)
        if self.was_deep:
            text = flattened(text)
        data = text.encode("utf-8", "replace")
        lower = data.lower()
        self._parser = LexborHTMLParser(data)
        self._words = PageWords(lower)
        self.place, self.site, self.site_title = place, site, site_title
        # A plain search comes first: most pages do not have the mark.
        may_be_saved = b"saved from url=" in lower
        saved = _SAVED_FROM.search(text, 0, _HEAD) if may_be_saved else None
        self.saved_from = (
            saved[1] if saved else ""
        )  # the address from which a browser saved the page
        self.layout = ""  # a CSS selector of what stands in texts and is no part of them
        self.is_front_page = False  # whether it is the first that a visitor of the site sees
        self.address = url.resolve(site, quote(place))
        self.shown_address = _shown(self.address)  # where visitors see the page
        base = self.first("base[href]")
        self.base = self.address
        if base is not None:
            self.base = url.resolve(self.address, (base.attributes.get("href") or "").strip())

    def stood_at(self, address: str) -> None:
        """Take an address of the page that is known: links start there, unless the page says otherwise."""
        if self.base == self.address:
            self.base = address
        self.address, self.shown_address = address, _shown(address)
        if url.split(address):
            self.place = mirrored.place_of(address)
            self.site = url.resolve(address, "/")

    @property
    def path(self) -> str:
        """The path of the page below the site, without a query."""
        if "?" in self.shown_address:
            return self.place.partition("?")[0]
        return self.place

    @property
    def root(self) -> LexborNode | None:
        """The root element."""
        return self._parser.root

    def may_hold(self, css: str) -> bool:
        """Whether a CSS selector may find something; no means that it surely does not."""
        return self._words.allow(css)

    def first(self, css: str) -> LexborNode | None:
        """The first element that a CSS selector finds."""
        if possible := self._words.possible(css):
            return self._parser.css_first(possible)
        return None

    def all(self, css: str) -> list[LexborNode]:
        """All elements that a CSS selector finds, in document order."""
        if possible := self._words.possible(css):
            return self._parser.css(possible)
        return []

    def within(self, node: LexborNode, css: str) -> list[LexborNode]:
        """All elements that a CSS selector finds within an element of the page, in document order."""
        if possible := self._words.possible(css):
            own = node.mem_id
            return [found for found in node.css(possible) if found.mem_id != own]
        return []

    def resolved(self, address: str) -> str:
        """An address on the page as an absolute one; one that cannot be read stays as it is."""
        address = address.strip()
        if not address or address.startswith("#"):
            return address
        return mirrored.address_of(url.resolve(self.base, address))

    def meta(self, *names: str) -> list[str]:
        """The contents of the `<meta>` elements of the first of these names that is there."""
        for name in names:
            found = [
                content
                for node in self.all(f'meta[name="{name}" i],meta[property="{name}" i]')
                if (content := words_of(node.attributes.get("content") or ""))
            ]
            if found:
                return found
        return []

    def without_site(self, title: str) -> str:
        """A title without the name of the site that layouts add before or after it."""
        title = words_of(title)
        if not self.site_title or title.casefold() == self.site_title.casefold():
            return title
        name = re.escape(self.site_title)
        for shape in (
            rf"(.+?)(?:{SITE_BETWEEN}){name}",
            rf"{name}(?:{SITE_BETWEEN})(.+)",
            rf"(.+?)\s+\({name}\)",
        ):
            found = re.fullmatch(shape, title, re.IGNORECASE)
            if found:
                return found[1]
        return title


def _shown(address: str) -> str:
    """The address at which visitors see a page: of an index file that of its folder, else with its query."""
    folder, _slash, last = address.rpartition("/")
    if last.lower() in url.INDEX_FILES:
        return f"{folder}/"
    return mirrored.address_of(address)


def _is_xhtml(text: str) -> bool:
    """Whether a page says that it is XHTML."""
    head = text[:_HEAD].lower()
    return any(word in head for word in _OF_XHTML) and _XHTML.search(text, 0, _HEAD) is not None


def _closed(text: str) -> str:
    """A page of XHTML as HTML: what closes itself there is closed, since HTML would leave it open (XHTML 1.0, C.3)."""

    def end(found: re.Match[str]) -> str:
        whole, name = found[0], found[2]
        if found[1] or not whole.endswith("/>") or name.lower() in VOID:
            return whole
        return f"{whole}</{name}>"

    return WHOLE_TAG.sub(end, text)


def words_of(text: str) -> str:
    """A text with single spaces."""
    return " ".join(text.split())


def text_of(node: LexborNode) -> str:
    """The words in an element."""
    child = node.child
    if child is None or (child.is_text_node and child.next is None):
        return words_of(node.text() or "")
    return words_of(
        node.text(separator=" " if node.css_matches("ul,ol,table,div") else "") or ""
    )


def is_within(node: LexborNode, holders: set[int]) -> bool:
    """Whether an element is in one of others, given by their `mem_id`."""
    above = node.parent
    while above is not None:
        if above.mem_id in holders:
            return True
        above = above.parent
    return False
