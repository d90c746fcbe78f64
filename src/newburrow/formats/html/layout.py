"""The parts of a page by the elements of the HTML standard: its text, its menu, its trail, its dates."""

from __future__ import annotations

import html
from collections.abc import Iterator
from urllib.parse import unquote

from selectolax.lexbor import LexborHTMLParser, LexborNode

from newburrow.formats import menu_lines
from newburrow.formats.html import navigation
from newburrow.formats.html.document import Document, text_of, words_of
from newburrow.markup.html import replace
from newburrow.markup.html_tags import HEADINGS

# Where a page says which pages it is under (WAI-ARIA Authoring Practices, and words that many layouts use).
TRAILS = (
    '[aria-label="breadcrumb" i]',
    '[aria-label="breadcrumbs" i]',
    '[role="navigation"][class*="crumb" i]',
    'nav[class*="crumb" i]',
    'ol[class*="crumb" i]',
    'ul[class*="crumb" i]',
    'div[class*="crumb" i]',
    '[itemprop~="breadcrumb"]',
)
TRAIL_LINKS = ",".join(f"{css} a[href]" for css in TRAILS)
# What is around a text and no part of it (HTML standard sections 4.3.4 to 4.3.9).
_AROUND = (
    "nav,body > header,body > footer,body > aside,[role=navigation],[role=banner],[role=contentinfo],"
    "[role=search],[role=complementary]"
)
_NEVER = "script:not([type^='math']),style,noscript,link,meta,template"
_DEEPEST_BOX = 20
_IN_HEADINGS = ",".join(f"{tag} a[href^='#']" for tag in HEADINGS)
_PLACES = "[id],a[name]"
_LONGEST_SIGN = 2  # characters
_SELF_LINKS = ("¶", "#", "§", "🔗")


def body(document: Document, content: LexborNode | None, titles: list[str]) -> str:
    """The HTML of the text of a page, without what is around it and without the heading that is its title.

    `content` is the element that says of itself that it is the text; without one it is looked for.
    """
    stated = content is not None
    node = content if content is not None else _content(document)
    if node is None:
        return ""
    copy = LexborHTMLParser(node.inner_html or "", is_fragment=True, fragment_tag="div")
    around = () if stated else (_AROUND, *TRAILS)
    _remove(copy, ",".join(filter(None, (_NEVER, *around, document.layout))))
    if not stated:
        navigation.take_out(copy, document, titles)
    _settle_headings(copy, document)
    _without_title(copy, titles)
    text = (copy.html or "").strip() if copy.root is not None else ""
    return _unwrapped(text)


def without(text: str, css: str) -> str:
    """An HTML text without the elements that a CSS selector finds."""
    parsed = LexborHTMLParser(text, is_fragment=True, fragment_tag="div")
    _remove(parsed, css)
    if parsed.root is not None:
        return parsed.html or ""
    return ""


def _remove(parsed: LexborHTMLParser, css: str) -> None:
    for node in parsed.css(css):
        node.decompose()


def _settle_headings(copy: LexborHTMLParser, document: Document) -> None:
    """Remove signs that link a heading to itself, and links to what went with the layout, such as its contents."""
    links = copy.css(_IN_HEADINGS)
    if not links:
        return
    gone = _places(document.all(_PLACES)) - _places(copy.css(_PLACES))
    for link in links:
        if _is_sign(link):
            _take_out_self_link(link)
        elif unquote((link.attributes.get("href") or "")[1:]) in gone:
            del link.attrs["href"]
            if not _places([link]):
                link.unwrap()


def _is_sign(link: LexborNode) -> bool:
    """Whether a link shows no words but a sign, such as `¶` or `◆`, beside those of the heading that it leads to.

    Any other sign may be a footnote's.
    """
    words = text_of(link)
    if len(words) > _LONGEST_SIGN or any(map(str.isalnum, words)):
        return False
    heading = _heading_around(link)
    if heading is None or text_of(heading) == words:  # such as that of an operator
        return False
    if not words and link.css_first("img") is not None:
        return False
    target = unquote((link.attributes.get("href") or "")[1:])
    return words in _SELF_LINKS or target in _names_of(heading)


def _names_of(heading: LexborNode) -> set[str]:
    """The names by which links know a heading: those in it, around it, and of what stands right before it."""
    nodes = heading.css(_PLACES)
    above: LexborNode | None = heading
    while above is not None:
        nodes.append(above)
        above = above.parent
    before = heading.prev
    while before is not None and before.is_text_node and not (before.text() or "").strip():
        before = before.prev
    if before is not None and not before.is_text_node:
        nodes += [before, *before.css(_PLACES)]
    return _places(nodes)


def _heading_around(link: LexborNode) -> LexborNode | None:
    holder = link.parent
    while holder is not None and holder.tag not in HEADINGS:
        holder = holder.parent
    return holder


def _places(nodes: list[LexborNode]) -> set[str]:
    """The names by which links know elements."""
    found = {node.attributes.get(name) for node in nodes for name in ("id", "name")}
    return {name for name in found if name}


def _take_out_self_link(link: LexborNode) -> None:
    """Remove the sign that links a heading to itself; the name by which links know the heading stays."""
    name = link.attributes.get("id") or link.attributes.get("name") or ""
    holder = _heading_around(link)
    if holder is None:
        return
    if name and not holder.attributes.get("id"):
        holder.attrs["id"] = name
    elif name and name != holder.attributes.get("id"):
        replace(link, f'<a id="{html.escape(name)}"></a>')
        return
    link.decompose()


def _unwrapped(text: str) -> str:
    """The text without boxes that are around all of it, which are the layout's."""
    for _depth in range(_DEEPEST_BOX):
        parsed = LexborHTMLParser(text, is_fragment=True, fragment_tag="div")
        root = parsed.root
        if (
            root is None
            or root.next is not None
            or root.tag not in ("div", "section", "article")
        ):
            break
        text = (root.inner_html or "").strip()
    return text


def _content(document: Document) -> LexborNode | None:
    """The element that the text of a page is in."""
    for css in ("main article", "main", "[role=main]", "article", '[itemprop="mainEntity"]'):
        found = document.all(css)
        if len(found) == 1:
            return found[0]
    return document.first("body")


def _without_title(copy: LexborHTMLParser, titles: list[str]) -> None:
    """Remove the first heading where it says the title once more, before any other words."""
    heading = copy.css_first("h1,h2")
    if heading is None or heading_words(heading) not in titles:
        return
    whole = words_of(
        copy.root.text() if copy.root is not None and copy.root.next is None else ""
    )
    before = words_of("".join(_texts_before(heading)))
    if not before or whole.startswith(text_of(heading)):
        heading.decompose()


def _texts_before(node: LexborNode) -> Iterator[str]:
    """The words that come before an element, whatever they are in."""
    at: LexborNode | None = node
    while at is not None:
        before = at.prev
        while before is not None:
            if before.tag != "-comment":
                yield before.text() or ""
            before = before.prev
        at = at.parent


def heading_words(node: LexborNode) -> str:
    """The words of a heading, without the sign that links it to itself."""
    text = text_of(node)
    found = [text_of(link) for link in node.css("a[href^='#']") if _is_sign(link)]
    # A title may end in one of these signs itself, as "C#" does; then it is in no element of its own.
    apart = {text_of(inner) for inner in node.css("a,span,button")}
    for sign in (*found, *filter(apart.__contains__, _SELF_LINKS)):
        text = text.removesuffix(sign).rstrip()
    return text


def dates(document: Document) -> list[str]:
    """When the text of a page was written, by its `<time>` elements: those of its head, not those of comments."""
    return [
        value
        for node in document.all(
            "time[pubdate],article > header time,article > time,article > p > time,main > header time,"
            "main > time,main > p > time,header time"
        )
        if (value := node.attributes.get("datetime") or text_of(node))
    ]


def menu(document: Document) -> Iterator[dict[str, list[str]]]:
    """The lines of the menu: the links of the first `<nav>` that is neither a trail nor a table of contents.

    Where elements say which menu they are (`data-menu`), the lines of all these menus.
    """
    named, before = document.all("nav[data-menu]"), 0
    for nav in named:
        name = nav.attributes.get("data-menu") or "main"
        yield from menu_lines.lines(nav, document.resolved, name, before)
        before += len(nav.css("a[href]"))
    if named:
        return
    trails = {node.mem_id for css in TRAILS for node in document.all(css)}
    for nav in document.all("nav,[role=navigation]"):
        links = [link for link in nav.css("a[href]") if text_of(link)]
        own = [
            link for link in links if not (link.attributes.get("href") or "").startswith("#")
        ]
        if nav.mem_id in trails or 2 * len(own) <= len(links) or not own:
            continue
        yield from menu_lines.lines(nav, document.resolved)
        return
