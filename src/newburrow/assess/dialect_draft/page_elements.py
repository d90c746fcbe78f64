"""What was seen of the elements on a sample of pages, by selectors that name them."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import islice

from selectolax.lexbor import LexborHTMLParser, LexborNode

from newburrow.core import url
from newburrow.core.problem import BurrowError
from newburrow.intake.encodings import page_text
from newburrow.intake.part import Part
from newburrow.markup.html import DEEPEST, deeper_than

_SAMPLE = 40  # pages
_LONGEST = 2_000_000  # bytes of a page that is looked at
_MOST_ELEMENTS = 4000  # of one page
_KEPT = 4000  # characters of a text
_BOXES = ("div", "main", "article", "section", "td", "body", "li", "blockquote", "p", "dd")
_TEXTS, _STATED = ("main", "article"), ('[role="main"]', '[itemprop="articleBody"]')
_PAGE_ENDINGS = (".html", ".htm", ".xhtml", ".php", ".asp", ".aspx", ".jsp")
_CLASS = re.compile(r"-?[A-Za-z_][\w-]*")
_PROPERTIES = ("itemprop", "rel", "property", "role")


class ObservedElement:
    """What was seen of the elements that one selector finds."""

    def __init__(self, selector: str, tag: str) -> None:
        self.selector, self.tag = selector, tag
        self.on: list[int] = []  # numbers of the pages
        self.texts: list[str] = []  # of the first on each page
        self.shown: list[str] = []  # its text, and what pictures it has
        self.values: list[str] = []  # of its `datetime`, or its text
        self.targets: list[str] = []  # where it leads, if it is a link
        self.most = self.total = 0  # on one page, and on all
        self.depth = 0
        self.attribute = ""
        self.own_words = 0  # that no other page has in the same place
        self.within: set[str] = set()  # selectors of elements around it

    @property
    def pages(self) -> int:
        """How many pages have such an element."""
        return len(self.on)

    @property
    def with_value(self) -> str:
        """The selector of its value: of an attribute, if that says it to machines."""
        if self.attribute:
            return f"{self.selector} @{self.attribute}"
        return self.selector

    @property
    def is_heading(self) -> bool:
        """Whether it is a heading."""
        return re.fullmatch("h[1-6]", self.tag) is not None

    @property
    def is_same(self) -> bool:
        """Whether it shows the same on every page that has it."""
        return len(set(self.shown)) == 1 and self.shown[0] != ""

    @property
    def is_stated_text(self) -> bool:
        """Whether HTML, WAI-ARIA or schema.org call it the text of a page."""
        return self.selector in _TEXTS or self.selector.endswith(_STATED)

    @property
    def leads_to_files(self) -> bool:
        """Whether it leads to a file on every page that has it, and never to a page."""
        endings = [
            posixpath.splitext(url.path_of(target) or target)[1] for target in self.targets
        ]
        return bool(endings) and all(
            ending and ending.lower() not in _PAGE_ENDINGS for ending in endings
        )

    @property
    def has_class(self) -> bool:
        """Whether the selector is more than the name of an element."""
        return self.selector != self.tag

    @property
    def is_box(self) -> bool:
        """Whether such an element can hold paragraphs."""
        return self.tag in _BOXES

    def is_in(self, selector: str) -> bool:
        """Whether such elements stand within those of another selector."""
        return selector in self.within

    def has_word(self, words: Sequence[str]) -> bool:
        """Whether its classes, its id or its properties have one of these words in their names."""
        own = re.split(r"[^a-z]+", self.selector.lower())
        return any(word in own for word in words)


class PageElements:
    """The elements on a sample of pages."""

    def __init__(self, parts: Sequence[Part]) -> None:
        self.count = 0
        self.seen: dict[str, ObservedElement] = {}
        self.titles: dict[int, str] = {}  # number of a page -> the title in its head
        step = max(1, len(parts) // _SAMPLE)
        sample = list(parts)[::step][:_SAMPLE]
        self.others = 0  # pages of the sample that are built in another way than most
        for part, is_usual in zip(sample, _are_usual(sample), strict=True):
            page = _parsed(part)
            if page is not None and is_usual:
                self._add(page)
            elif page is not None:
                self.others += 1
        self._count_words()

    def _add(self, page: LexborHTMLParser) -> None:
        body = page.body
        assert body is not None
        title = page.css_first("head > title")
        self.titles[self.count] = " ".join((title.text() or "").split()) if title else ""
        on_page: dict[str, int] = {}
        for node, around in islice(_walked(body), _MOST_ELEMENTS):
            for selector in _selectors(node, around):
                on_page[selector] = on_page.get(selector, 0) + 1
                self._note(selector, node, around, on_page[selector])
        self.count += 1

    def _note(
        self, selector: str, node: LexborNode, around: tuple[LexborNode, ...], nth: int
    ) -> None:
        seen = self.seen.setdefault(selector, ObservedElement(selector, node.tag or ""))
        seen.total, seen.most = seen.total + 1, max(seen.most, nth)
        seen.depth = max(seen.depth, len(around))
        for above in around:
            seen.within.update(_own_selectors(above))
        if nth > 1:
            return
        text = " ".join((node.text(separator=" ") or "").split())[:_KEPT]
        if node.attributes.get("datetime"):
            seen.attribute = "datetime"
        seen.on.append(self.count)
        seen.texts.append(text)
        pictures = (picture.attributes.get("src") or "" for picture in node.css("img"))
        seen.shown.append(" ".join(filter(None, (text, *pictures))))
        seen.values.append(node.attributes.get("datetime") or text)
        if seen.tag == "a":
            seen.targets.append(node.attributes.get("href") or "")

    def _count_words(self) -> None:
        """How many words of each element differ from page to page."""
        for seen in self.seen.values():
            if len(seen.texts) < 2:
                continue
            pages = [text.split() for text in seen.texts]
            shared = set(pages[0]).intersection(*map(set, pages[1:]))
            seen.own_words = sum(sum(word not in shared for word in words) for words in pages)


def _parsed(part: Part) -> LexborHTMLParser | None:
    """A page without what is not shown; None where it cannot be read or has no body."""
    try:
        with part.open() as stream:
            text = page_text(stream.read(_LONGEST)).text
    except BurrowError:
        return None
    if deeper_than(text, DEEPEST):
        return None
    page = LexborHTMLParser(text)
    if page.body is None:
        return None
    for unwanted in page.body.css("script,style,noscript,template"):
        unwanted.decompose()
    return page


def _are_usual(sample: Sequence[Part]) -> list[bool]:
    """For each page, whether it has most of the elements that most pages have: lists of a search may lie among them."""
    kinds: list[set[str]] = []
    for part in sample:
        page = _parsed(part)
        nodes = islice(_walked(page.body), _MOST_ELEMENTS) if page and page.body else ()
        kinds.append({name for node, _around in nodes for name in _own_selectors(node)})
    on = Counter(name for names in kinds for name in names)
    usual = {name for name, number in on.items() if 2 * number > len(sample)}
    return [2 * len(names & usual) >= len(usual) for names in kinds]


def _walked(body: LexborNode) -> Iterator[tuple[LexborNode, tuple[LexborNode, ...]]]:
    """All elements with those around each, in document order."""
    waiting: list[tuple[LexborNode, tuple[LexborNode, ...]]] = [(body, ())]
    while waiting:
        node, around = waiting.pop()
        yield node, around
        children = []
        child = node.child
        while child is not None:
            if child.tag and not child.tag.startswith(("-", "!")):
                children.append((child, (*around, node)))
            child = child.next
        waiting += reversed(children)


def _selectors(node: LexborNode, around: tuple[LexborNode, ...]) -> Iterator[str]:
    """Selectors that find an element; those of links also by what is around them."""
    yield from _own_selectors(node)
    if node.tag == "a":
        for above in around:
            for selector in _own_selectors(above):
                if selector != above.tag:
                    yield f"{selector} a"


def _own_selectors(node: LexborNode) -> Iterator[str]:
    """Selectors of an element by itself: its name, with a class, its id, or a property."""
    tag, attributes = node.tag or "", node.attributes
    yield tag
    for name in (attributes.get("class") or "").split():
        if _CLASS.fullmatch(name):
            yield f"{tag}.{name}"
    own = attributes.get("id") or ""
    if _CLASS.fullmatch(own):
        yield f"{tag}#{own}"
    for name in _PROPERTIES:
        value = attributes.get(name) or ""
        if value and '"' not in value:
            yield f'{tag}[{name}="{value}"]'
