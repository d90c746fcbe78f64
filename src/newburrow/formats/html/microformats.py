"""What pages say in microformats2: `h-entry` with its author, dates, categories, content and comments."""

from __future__ import annotations

from collections.abc import Iterator

from selectolax.lexbor import LexborNode

from newburrow.formats.html.document import Document, is_within, text_of

_ROOTS = ".h-entry,.h-cite,.h-card,.h-feed,.h-event,.h-adr,.h-geo,.h-item,.h-product,.h-recipe,.h-review"


def entries(document: Document) -> list[LexborNode]:
    """The entries on a page that are in no other entry."""
    found = document.all(".h-entry")
    outer = {node.mem_id for node in found}
    return [node for node in found if not is_within(node, outer)]


def facts(entry: LexborNode, document: Document) -> dict[str, list[str]]:
    """The facts of an entry, as lists of texts."""
    made = {
        "title": _texts(entry, "p-name"),
        "published": _dates(entry, "dt-published"),
        "updated": _dates(entry, "dt-updated"),
        "author": _authors(entry),
        "summary": _texts(entry, "p-summary"),
        "permalink": _addresses(entry, document, "u-url"),
        "tags": _texts(entry, "p-category"),
        "lead_picture": _addresses(entry, document, "u-featured", "u-photo"),
        "kind": ["post"] if _own(entry, "dt-published") else [],
    }
    return {name: texts for name, texts in made.items() if texts}


def content(entry: LexborNode) -> LexborNode | None:
    """The element with the text of an entry."""
    return next(iter(_own(entry, "e-content")), None)


def comments(entry: LexborNode, document: Document) -> Iterator[dict[str, list[str]]]:
    """The comments on an entry: `u-comment`, or `p-comment`, each an `h-cite` or an `h-entry`."""
    for node in entry.css(".u-comment,.p-comment"):
        text = content(node)
        key = next(iter(_addresses(node, document, "u-url")), node.attributes.get("id") or "")
        yield {
            "id": [key] if key else [],
            "author": _authors(node),
            "published": _dates(node, "dt-published"),
            "address": _addresses_of_author(node, document),
            "text": [text.inner_html or ""] if text is not None else _texts(node, "p-content"),
            "parent": _addresses(node, document, "u-in-reply-to"),
        }


def _own(root: LexborNode, name: str) -> list[LexborNode]:
    """The elements with a property, without those of things that are within the thing."""
    inner = {node.mem_id for node in root.css(_ROOTS)} - {root.mem_id}
    return [
        node
        for node in root.css(f".{name}")
        if node.mem_id != root.mem_id and not _in_inner(node, root, inner)
    ]


def _in_inner(node: LexborNode, root: LexborNode, inner: set[int]) -> bool:
    above = node.parent
    while above is not None and above.mem_id != root.mem_id:
        if above.mem_id in inner:
            return True
        above = above.parent
    return False


def _texts(root: LexborNode, name: str) -> list[str]:
    found = []
    for node in _own(root, name):
        value = node.attributes.get("title") if node.tag == "abbr" else ""
        if text := value or text_of(node):
            found.append(text)
    return found


def _dates(root: LexborNode, name: str) -> list[str]:
    found = []
    for node in _own(root, name):
        attributes = node.attributes
        if value := attributes.get("datetime") or attributes.get("title") or text_of(node):
            found.append(value)
    return found


def _authors(root: LexborNode) -> list[str]:
    found = []
    for node in _own(root, "p-author"):
        name = next(iter(_texts(node, "p-name")), "") or text_of(node)
        if name:
            found.append(name)
    return found


def _addresses_of_author(root: LexborNode, document: Document) -> list[str]:
    return [
        document.resolved(href)
        for node in _own(root, "p-author")
        for link in [node, *node.css("a.u-url")]
        if (href := link.attributes.get("href"))
    ][:1]


def _addresses(root: LexborNode, document: Document, *names: str) -> list[str]:
    for name in names:
        found = [
            document.resolved(value)
            for node in _own(root, name)
            for attribute in ("href", "src", "value")
            if (value := node.attributes.get(attribute))
        ]
        if found:
            return found
    return []
