"""Links from page to page that layouts repeat on every page: to the one before, to the next, to the one above.

They are known by their link types (HTML standard section 4.6.7, HTML 4.01 section 6.12, RFC 8288), by the keys that
built manuals give them (`accesskey`), or because the head of the page names the same pages. What holds nothing else is
part of the layout.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from selectolax.lexbor import LexborHTMLParser, LexborNode

from newburrow.formats.html.document import Document, is_within, words_of
from newburrow.markup.html_tags import HEADINGS

_TYPES = frozenset(
    (
        "next",
        "prev",
        "previous",
        "up",
        "start",
        "first",
        "last",
        "home",
        "top",
        "contents",
        "toc",
        "index",
    )
)
_KEYS = frozenset("npuh")  # next, previous, up, home
_MOST_LINKS = 40  # of a page; with more they are its text
_MOST_WORDS = 80  # of a box in all
_OTHER_WORDS = 3  # for each link that are neither in links nor in titles: `Previous:`, `|`
_SIGN = 32  # pixels of the width of a sign
_STOPS = ("body", "html", "main", "article")
_BLOCKS = (
    "p",
    "div",
    "pre",
    "ul",
    "ol",
    "dl",
    "table",
    "section",
    "article",
    "blockquote",
    "form",
    "figure",
    *HEADINGS,
)
_BOXES = (*_BLOCKS, "nav", "header", "footer", "center")


def up(document: Document) -> str:
    """The address of the page above, as the links of a built manual say it; empty where there is none."""
    keyed = {
        (node.attributes.get("accesskey") or "").lower(): node
        for node in document.all("a[accesskey][href]")
    }
    above = document.first('link[rel~="up"][href],a[rel~="up"][href]')
    if above is None and len(keyed.keys() & _KEYS) > 1:
        above = keyed.get("u")
    if above is None:
        return ""
    return document.resolved(above.attributes.get("href") or "")


def take_out(text: LexborHTMLParser, document: Document, titles: list[str]) -> None:
    """Remove the boxes of such links from the text of a page, unless nothing would be left of it."""
    links = list(islice(_links(text, document), _MOST_LINKS + 1))
    if not links or len(links) > _MOST_LINKS:
        return
    known = _words_of_titles(links, titles)
    boxes: dict[int, LexborNode] = {}
    for link in links:
        box = _box_of(link, links, known)
        if box is not None and box.tag in _BOXES and _leads_on(box, links):
            boxes[box.mem_id] = box
    outermost = [box for box in boxes.values() if not is_within(box, set(boxes))]
    whole = text.root
    if not outermost or whole is None or sum(map(_count, outermost)) >= _count_of_all(whole):
        return
    for box in outermost:
        for line in (_beside(box, "next"), _beside(box, "prev")):  # between it and the text
            if line is not None and line.tag == "hr":
                line.decompose()
        box.decompose()


def _links(text: LexborHTMLParser, document: Document) -> Iterator[LexborNode]:
    head = {
        node.attributes.get("href")
        for node in document.all("head > link[rel][href]")
        if _says(node)
    }
    for node in text.css("a[href]"):
        if _says(node) or node.attributes.get("href") in head:
            yield node


def _says(node: LexborNode) -> bool:
    """Whether a link says itself what it leads to."""
    types = (node.attributes.get("rel") or "").lower().split()
    key = (node.attributes.get("accesskey") or "").lower()
    return not _TYPES.isdisjoint(types) or key in _KEYS


def _words_of_titles(links: list[LexborNode], titles: list[str]) -> frozenset[str]:
    """The words by which such links and the page itself are named."""
    named = [*titles, *(link.attributes.get("title") or "" for link in links)]
    return frozenset(word for text in named for word in text.casefold().split())


def _box_of(
    link: LexborNode, links: list[LexborNode], known: frozenset[str]
) -> LexborNode | None:
    """The largest element around a link that holds nothing but such links; None where that is not more than it."""
    own = {other.mem_id for other in links}
    found, above = None, link.parent
    while above is not None and above.tag not in _STOPS and _holds_only(above, own, known):
        found, above = above, above.parent
    return found


def _leads_on(box: LexborNode, links: list[LexborNode]) -> bool:
    """Whether links in a box say that they lead on, or at least two of them lead where the head does."""
    own = {node.mem_id for node in box.css("a[href]")}
    within = [link for link in links if link.mem_id in own]
    return any(map(_says, within)) or len(within) > 1


def _holds_only(box: LexborNode, links: set[int], known: frozenset[str]) -> bool:
    """Whether an element holds such links and the words around them, and no text of the page."""
    inner = box.css("a[href]")
    number = sum(node.mem_id in links for node in inner)
    for child in _elements(box):
        holds_link = child.mem_id in links or any(
            node.mem_id in links for node in child.css("a[href]")
        )
        if child.tag in _BLOCKS and not holds_link and _words(child) - known:
            return False
    shown = [node for node in box.css("img,svg,video,object,iframe") if not _is_sign(node)]
    if any(not is_within(node, links) for node in shown):
        return False
    linked = {
        word
        for node in inner
        if node.mem_id in links or (node.attributes.get("href") or "").startswith("#")
        for word in _words(node)
    }
    others = [word for word in _words_in_order(box) if word not in linked | known]
    return _count(box) <= _MOST_WORDS and len(others) <= _OTHER_WORDS * number


def _is_sign(node: LexborNode) -> bool:
    """Whether a picture is a small one that says nothing, such as an arrow that leads nowhere here."""
    width = node.attributes.get("width") or ""
    return not node.attributes.get("alt") and width.isdecimal() and int(width) <= _SIGN


def _elements(node: LexborNode) -> Iterator[LexborNode]:
    child = node.child
    while child is not None:
        if not (child.tag or "-").startswith("-"):
            yield child
        child = child.next


def _beside(node: LexborNode, side: str) -> LexborNode | None:
    """The element `next` to a node, or `prev`; None where words come before it."""
    at: LexborNode | None = getattr(node, side)
    while at is not None and (at.tag or "-").startswith("-"):
        if at.tag == "-text" and words_of(at.text() or ""):
            return None
        at = getattr(at, side)
    return at


def _words_in_order(node: LexborNode) -> list[str]:
    return (node.text(separator=" ") or "").casefold().split()


def _words(node: LexborNode) -> set[str]:
    return set(_words_in_order(node))


def _count(node: LexborNode) -> int:
    return len(_words_in_order(node))


def _count_of_all(first: LexborNode) -> int:
    """The words of a node and of those after it."""
    number, node = _count(first), first.next
    while node is not None:
        number += _count(node)
        node = node.next
    return number
