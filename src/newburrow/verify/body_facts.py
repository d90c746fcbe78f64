"""What a reader meets in a body: its words in order, and each heading, list, table, link, picture and embed."""

from __future__ import annotations

import html
import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator

from msgspec import Struct
from selectolax.lexbor import LexborNode

from newburrow.convert.body.embeds import Embeds
from newburrow.markup import addresses, bare_addresses
from newburrow.markup.base import MISSING_PAGE
from newburrow.markup.html import Fragment

WORDS = "words"
HEADINGS, LISTS, TABLES, CODE, QUOTES = "headings", "lists", "tables", "code", "quotes"
LINKS, PICTURES, EMBEDS = "links", "pictures", "embeds"
ASPECTS = (WORDS, HEADINGS, LISTS, TABLES, CODE, QUOTES, LINKS, PICTURES, EMBEDS)

# Gives the form in which an address found in a body is compared; empty for one of a page that is not there.
Resolve = Callable[[str], str]

_INLINE = frozenset((
    "a", "abbr", "acronym", "b", "bdi", "bdo", "big", "cite", "code", "data", "del", "dfn", "em", "font", "i", "ins",
    "kbd", "label", "mark", "q", "s", "samp", "small", "span", "strike", "strong", "sub", "sup", "time", "tt", "u",
    "var", "wbr",
))  # fmt: skip
_NEVER_SHOWN = "script|style|template|noscript|title|iframe|noembed|noframes"
# Serialised HTML has `<` in tags and comments alone (HTML standard section 13.3).
_UNSHOWN = re.compile(rf"<!--.*?-->|<({_NEVER_SHOWN})\b.*?</\1>", re.DOTALL | re.IGNORECASE)
_HIDING = re.compile(rf"<(?:!--|(?:{_NEVER_SHOWN})\b)", re.IGNORECASE)
# The end of a tag, whose attributes in quotes can hold its sign.
_TO_END = r"""[^>"]*+(?:"[^"]*"[^>"]*+)*+>"""
_TAG = re.compile(rf"<(?:/?([a-z][a-z0-9]*)(?=[\s>]))?{_TO_END}")
# Signs that take no room: a soft hyphen, spaces without a width, a mark of byte order.
_BRACKETS = str.maketrans("<>", "  ")
_NO_ROOM = "\u00ad\u200b\u2060\ufeff"
# Serialised HTML has attributes in double quotes alone (HTML standard section 13.3).
_PLAIN = re.compile(
    r"""<(?:a\s(?:[^>"]|"[^"]*")*?(?<=\s)href="([^"]*)"|img\s(?:[^>"]|"[^"]*")*?(?<=\s)src="([^"]*)")"""
)
_TAG_NAME = re.compile(r"<([a-z][a-z0-9]*)")
# Elements with further addresses.
_TREE_NEEDED = frozenset((
    "area", "audio", "button", "embed", "form", "frame", "iframe", "input", "link", "object", "source", "track",
    "video", "use",
))  # fmt: skip
_USES = {
    addresses.LINK: LINKS,
    addresses.PICTURE: PICTURES,
    addresses.FRAME: EMBEDS,
}


class BodyFacts(Struct, frozen=True):
    """The facts of one body."""

    words: list[str]
    parts: dict[
        str, list[str]
    ]  # aspect -> what there is of it, in order; those without any are left out
    bare: list[str] = []  # addresses that the words show, which some hosts make links of

    def of(self, aspect: str) -> list[str]:
        """What there is of an aspect."""
        if aspect == WORDS:
            return self.words
        return self.parts.get(aspect, [])


_ADDRESSED = ("<a", "src", "url(", "cite=")  # signs without one of which a text has no address
NOT_THERE = "nothing is there"  # in place of an address, before the words of the link

NOTHING = BodyFacts([], {})


def facts_of(text: str, resolve: Resolve, frames: Embeds | None = None) -> BodyFacts:
    """The facts of an HTML text. A text that is nested too deep is made flatter first.

    `frames` knows the pages whose address alone in a paragraph is shown as a frame.
    """
    if not text.strip():
        return NOTHING
    fragment = Fragment.of_any(text)
    found: dict[str, list[str]] = {}
    for node, frame in frames.alone(fragment, text) if frames else ():
        found.setdefault(EMBEDS, []).append(resolve(frame))
        node.decompose()  # its words are an address that no reader sees
    written = fragment.html()
    lower = written.lower()
    tags = frozenset(_TAG_NAME.findall(lower))
    if any(sign in lower for sign in _ADDRESSED):
        needs_tree = not _TREE_NEEDED.isdisjoint(tags) or MISSING_PAGE in lower
        plain = None if needs_tree else _plain_addresses(written, resolve)
        if plain is None:
            _note_addresses(fragment, written, resolve, found)
        else:
            for aspect, parts in plain.items():
                found[aspect] = [*found.get(aspect, []), *parts]
    for aspect, selector, said in _STRUCTURE:
        if not tags.isdisjoint(selector.split(",")):
            parts = [said(node) for node in fragment.select(selector)]
            if parts:
                found[aspect] = parts
    words = words_of(written)
    bare: list[str] = []
    if "://" in lower or "www." in lower:
        # Some hosts end an address where a tag begins, others do not.
        pieces = map(html.unescape, _TAG.split(_UNSHOWN.sub("", written))[::2])
        shown = Counter(_targets(words)) | Counter(_targets(pieces))
        bare = [address for target in shown.elements() if (address := resolve(target))]
    return BodyFacts(words, found, bare)


def _targets(texts: Iterable[str]) -> Iterator[str]:
    """Where the addresses lead that stand in texts without being links."""
    for text in texts:
        if "://" in text or "www." in text.lower():
            yield from bare_addresses.targets(text.translate(_BRACKETS))


def _plain_addresses(written: str, resolve: Resolve) -> dict[str, list[str]] | None:
    """The addresses of links and pictures in serialised HTML, found without its tree; None where that is needed."""
    if addresses.is_special(written) or "<!--" in written:
        return None
    found: dict[str, list[str]] = {}
    for match in _PLAIN.finditer(written):
        href, src = match.groups()
        if src is None:
            aspect, value = LINKS, href
        else:
            aspect, value = PICTURES, src
        address = resolve(html.unescape(value).strip())
        if not address:
            return None  # nothing is there: it is known by the words of its link
        parts = found.setdefault(aspect, [])
        if aspect == LINKS or parts[-1:] != [address]:
            parts.append(address)
    return found


def _note_addresses(
    fragment: Fragment, written: str, resolve: Resolve, found: dict[str, list[str]]
) -> None:
    """Note the address of every link, picture and embed."""

    def note(value: str, use: str, node: LexborNode) -> str:
        aspect = _USES.get(use)
        if aspect:
            address = _address(value.strip(), node, resolve)
            parts = found.setdefault(aspect, [])
            # One picture in several sizes is one picture.
            if aspect == LINKS or parts[-1:] != [address]:
                parts.append(address)
        return value

    addresses.change_any(fragment, written, note)


def _address(value: str, node: LexborNode, resolve: Resolve) -> str:
    """An address as it is compared; one where nothing is by the words of its link."""
    is_missing = MISSING_PAGE in (node.attributes.get("class") or "").split()
    address = ""
    if not is_missing:
        address = resolve(value)
    return address or f"{NOT_THERE}: {_words(node) or value}"


def words_of(written: str) -> list[str]:
    """The words that a serialised HTML text shows. Tags of phrases part no word, all others do."""
    if "<" in written:
        if _HIDING.search(written):
            written = _UNSHOWN.sub("", written)
        first, *parts = _TAG.split(written)  # the names of tags, each with the text behind it
        shown = [first]
        for name, text in zip(parts[::2], parts[1::2], strict=True):
            if name not in _INLINE:
                shown.append(" ")
            shown.append(text)
        written = "".join(shown)
    text = html.unescape(written)
    for sign in _NO_ROOM:
        text = text.replace(sign, "")
    return text.split()


def _words(node: LexborNode) -> str:
    return " ".join(words_of(node.html or ""))


def _heading(node: LexborNode) -> str:
    return f"{node.tag} {_words(node)}"


def _list(node: LexborNode) -> str:
    items = sum(child.tag in ("li", "dt", "dd") for child in node.iter())
    return f"{node.tag} of {items}"


def _table(node: LexborNode) -> str:
    rows = [sum(cell.tag in ("td", "th") for cell in row.iter()) for row in node.css("tr")]
    return f"{len(rows)} rows, {sum(rows)} cells"


def _code(node: LexborNode) -> str:
    return "\n".join(line.rstrip() for line in (node.text() or "").strip("\n").split("\n"))


# Aspect, selector of its elements, and what is said of each.
_STRUCTURE: tuple[tuple[str, str, Callable[[LexborNode], str]], ...] = (
    (HEADINGS, "h1,h2,h3,h4,h5,h6", _heading),
    (LISTS, "ul,ol,dl", _list),
    (TABLES, "table", _table),
    (CODE, "pre", _code),
    (QUOTES, "blockquote", _words),
)
