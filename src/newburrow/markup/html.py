"""HTML fragments: parsed by the algorithm of the HTML standard (section 13.2), changed, written back.

The parser is behind `Fragment` alone, so that another can take its place.
"""

from __future__ import annotations

import html
import re
from collections import Counter
from collections.abc import Iterable

from selectolax.lexbor import LexborHTMLParser, LexborNode

from newburrow.markup.html_tags import VOID, WHOLE_TAG, nesting_tags

DEEPEST = 512  # levels; the parser takes quadratic time on depth, and browsers stop here too

_ATTRIBUTE_NAME = re.compile(
    r"[A-Za-z_:][A-Za-z0-9_.:-]*"
)  # as all markups take it (CommonMark 6.6)
_TAG = re.compile(r"<(/?)([a-zA-Z][^\s/>]*)")
_SCRIPTS = re.compile(r"<(script|style)\b.*?(?:</\1\s*>|\Z)", re.IGNORECASE | re.DOTALL)
_CLOSES_ITSELF = frozenset(
    ["p", "li", "dt", "dd", "tr", "td", "th", "thead", "tbody", "tfoot", "option"]
)
_NO_DEPTH = VOID | _CLOSES_ITSELF
_SWALLOWS_NEWLINE = re.compile(r"<(?:pre|textarea|listing)\b")


MOST_ATTRIBUTES = 500  # of one element; parsers compare each with all others
_LONG = 20_000  # characters; in a shorter text no tag has so many attributes that it matters
_ATTRIBUTE = re.compile(
    r"""[^\s/>=]=?[^\s/>=]*+(?:\s*+=\s*+(?:"[^"]*+"|'[^']*+'|[^\s"'>][^\s>]*+))?+"""
)


class TooDeep(Exception):
    """The text is nested deeper than DEEPEST levels, or what is in it takes for ever; it was not parsed."""


def deeper_than(text: str, most: int) -> bool:
    """Whether tags may be nested deeper than `most` levels, by a count that never says less than is true."""
    if text.count("<") <= most:
        return False
    if not _is_deeper(_TAG.findall(text), most):
        return False
    if "<svg" not in text.lower():
        return True
    # In drawings most tags are closed where they are opened.
    return _is_deeper(((found[1], tag) for found, tag in nesting_tags(text)), most)


def _is_deeper(tags: Iterable[tuple[str, str]], most: int) -> bool:
    """The same by the slashes and names of tags."""
    depth, open_tags = 0, dict[str, int]()
    for closes, name in tags:
        if not name or name in _NO_DEPTH:
            continue
        tag = name.lower()
        if tag in _NO_DEPTH:
            continue
        number = open_tags.get(tag, 0)
        if not closes:
            open_tags[tag] = number + 1
            depth += 1
            if depth > most:
                return True
        elif number:
            open_tags[tag] = number - 1
            depth -= 1
    return False


def flattened(text: str, most: int = DEEPEST // 2) -> str:
    """The text without tags that are nested deeper than `most` levels; what is in them stays.

    Of scripts and styles nothing stays: it would be shown as words.
    Depth is counted as in `deeper_than`, so that this text can be parsed.
    """
    text = _SCRIPTS.sub("", text)
    depth, open_tags, dropped = 0, Counter[str](), Counter[str]()
    pieces, place = list[str](), 0
    for found, name in nesting_tags(text):
        tag, closes = name.lower(), bool(found[1])
        kept = not tag or tag in VOID or tag in _CLOSES_ITSELF
        if not kept and not closes and depth < most:
            kept = True
            open_tags[tag] += 1
            depth += 1
        elif not kept and closes and not dropped[tag]:
            kept = True
            if open_tags[tag]:
                open_tags[tag] -= 1
                depth -= 1
        before = text[place : found.start()]
        place = found.end()
        if kept:
            pieces.append(f"{before}<{found[0][1:].replace('<', '&lt;')}")
            continue
        dropped[tag] += -1 if closes else 1
        pieces.append(before)
        if before.endswith(("<", "/")):  # it would make a tag with what follows
            pieces.append(" ")
    return "".join(pieces) + text[place:]


def with_few_attributes(text: str) -> tuple[str, list[str]]:
    """The text with at most MOST_ATTRIBUTES in each tag, and the names of the tags that had more."""
    if len(text) < _LONG:
        return text, []
    pieces, place, cut = list[str](), 0, list[str]()
    for found in WHOLE_TAG.finditer(text):
        if found.end() - found.start() < 2 * MOST_ATTRIBUTES or found[1]:
            continue
        end = found.end(2)
        attributes = _ATTRIBUTE.finditer(text, found.end(2), found.end())
        for number, attribute in enumerate(attributes, 1):
            if number > MOST_ATTRIBUTES:
                cut.append(found[2])
                pieces += (text[place:end], ">")
                place = found.end()
                break
            end = attribute.end()
    return "".join(pieces) + text[place:], cut


class Fragment:
    """A parsed piece of HTML. Raises TooDeep where it is nested beyond reason."""

    def __init__(self, text: str) -> None:
        # `cut` has the names of the tags that have lost attributes beyond MOST_ATTRIBUTES
        text, self.cut = with_few_attributes(text)
        if deeper_than(text, DEEPEST):
            raise TooDeep
        self._parser = LexborHTMLParser(text, is_fragment=True, fragment_tag="div")

    @classmethod
    def of_any(cls, text: str) -> Fragment:
        """The same of any text: one that is nested beyond reason is made flatter first."""
        try:
            return cls(text)
        except TooDeep:
            return cls(flattened(text))

    @classmethod
    def holding(cls, hint: re.Pattern[str], text: str) -> Fragment | None:
        """The same of a text in which `hint` is found; None of any other, and of one nested beyond reason."""
        if not hint.search(text):
            return None
        try:
            return cls(text)
        except TooDeep:
            return None

    @classmethod
    def held(cls, text: str) -> Fragment:
        """The text within one element, which is `first()`: top-level nodes would have no parent."""
        fragment = cls(f"<div>{text}")
        holder = fragment.first()
        if holder is not None and holder.next is None:
            return fragment
        # It closes an element that it does not open. Written back it is balanced.
        return cls(f"<div>{cls(text).html()}</div>")

    def first(self) -> LexborNode | None:
        """The first top-level node; the others are its next siblings."""
        return self._parser.root

    def select(self, selector: str) -> list[LexborNode]:
        """The elements that a CSS selector finds, in document order."""
        return self._parser.css(selector)

    def elements(self) -> list[LexborNode]:
        """All elements, in document order."""
        return self._parser.css("*")

    def words(self) -> str:
        """The text of the fragment, with a space between elements."""
        found, node = [], self._parser.root
        while node is not None:
            found.append(node.text(separator=" ") or "")
            node = node.next
        return " ".join(found)

    def prepend(self, html: str) -> None:
        """Insert HTML before everything else."""
        piece = LexborHTMLParser(html, is_fragment=True, fragment_tag="div")
        root = self._parser.root
        if root is None or piece.root is None:
            if root is None:
                self._parser = piece
        else:
            root.insert_before(piece.root)

    def html(self) -> str:
        """The fragment written back (HTML standard section 13.3)."""
        if self._parser.root is not None:
            written = self._parser.html or ""
        else:
            written = ""
        # this test is faster than the search for such an element
        if not _SWALLOWS_NEWLINE.search(written):
            return written
        for node in self._parser.css("pre,textarea,listing"):
            first = node.child
            # The parser drops one newline here; without a second one, so would the next parser.
            if (
                first is not None
                and first.is_text_node
                and (first.text_content or "").startswith("\n")
            ):
                first.insert_before("\n")
        return self._parser.html or ""


def children(node: LexborNode) -> list[LexborNode]:
    """The child nodes of a node, texts and comments included."""
    found, child = [], node.child
    while child is not None:
        found.append(child)
        child = child.next
    return found


def start_tag(node: LexborNode) -> str:
    """The start tag of an element, as HTML."""
    pairs = [
        f' {name}="{html.escape(value)}"' if value is not None else f" {name}"
        for name, value in node.attributes.items()
        if _ATTRIBUTE_NAME.fullmatch(name)
    ]
    return f"<{node.tag}{''.join(pairs)}>".replace("\n", "&#10;")


def replace(node: LexborNode, html: str) -> None:
    """Replace an element with HTML; empty HTML removes it."""
    if html:
        made = LexborHTMLParser(html, is_fragment=True, fragment_tag="div")
        root = made.root
        while root is not None:
            following = root.next
            node.insert_before(root)
            root = following
    node.decompose()
