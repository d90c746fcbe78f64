"""Footnotes in HTML: a reference that leads to an item of a list, which leads back."""

from __future__ import annotations

from collections.abc import Iterator

from selectolax.lexbor import LexborNode

from newburrow.markup.html import Fragment


class Footnotes:
    """The footnotes of one text, found by the links there and back."""

    def __init__(self, fragment: Fragment | None = None) -> None:
        """Without a fragment there are none."""
        self._references: dict[int, str] = {}  # element of a reference -> number
        self._items: dict[str, LexborNode] = {}  # number -> item
        self._sections: set[int] = set()
        found = fragment.select("li[id] a[href^='#']") if fragment else []
        if fragment is None or not found:
            return
        back: dict[str, LexborNode] = {}  # id of a reference -> item that leads back to it
        for link in found:
            item = _item_of(link)
            if item is not None:
                back.setdefault((link.attributes.get("href") or "")[1:], item)
        for link in fragment.select("a[href^='#']"):
            if link.parent is not None and link.parent.tag == "sup":
                sup = link.parent
            else:
                sup = link
            own = link.attributes.get("id") or sup.attributes.get("id") or ""
            if own:
                item = back.get(own)
            else:
                item = None
            if (
                item is not None
                and (item.attributes.get("id") or "") == (link.attributes.get("href") or "")[1:]
            ):
                self._keep(sup, item)

    def _keep(self, reference: LexborNode, item: LexborNode) -> None:
        known = next(
            (
                number
                for number, footnote in self._items.items()
                if footnote.mem_id == item.mem_id
            ),
            "",
        )
        number = known or str(len(self._items) + 1)
        self._items[number] = item
        self._references[reference.mem_id] = number
        around = item.parent
        while around is not None and around.tag not in ("section", "div", "aside", "footer"):
            around = around.parent
        holder = item.parent
        if around is not None and _only_notes(around):
            holder = around
        if holder is not None:
            self._sections.add(holder.mem_id)

    def number_of(self, node: LexborNode) -> str:
        """The number that a reference stands for; empty for any other element."""
        if self._references:
            return self._references.get(node.mem_id, "")
        return ""

    @property
    def references(self) -> int:
        """How many references there are to all of them."""
        return len(self._references)

    def is_section(self, node: LexborNode) -> bool:
        """Whether an element holds the footnotes, or is the line before them."""
        if not self._sections:
            return False
        after = node.next
        while (
            after is not None and after.is_text_node and not (after.text_content or "").strip()
        ):
            after = after.next
        is_line = node.tag == "hr" and after is not None and after.mem_id in self._sections
        return node.mem_id in self._sections or is_line

    def in_order(self) -> Iterator[tuple[str, LexborNode]]:
        """Number and item of each."""
        yield from self._items.items()

    def words_of(self, item: LexborNode) -> list[LexborNode]:
        """What a footnote says, without the links back; those are removed from the tree."""
        ids = {
            link.mem_id
            for link in item.css("a[href^='#']")
            if (link.attributes.get("href") or "") != "#"
            and not link.css("img")
            and len((link.text_content or "").strip()) <= 4
        }
        for link in item.css("a[href^='#']"):
            if link.mem_id in ids:
                link.decompose()
        nodes, node = [], item.child
        while node is not None:
            nodes.append(node)
            node = node.next
        return nodes


def _item_of(link: LexborNode) -> LexborNode | None:
    node = link.parent
    while node is not None and not (node.tag == "li" and node.attributes.get("id")):
        node = node.parent
    return node


def _only_notes(around: LexborNode) -> bool:
    """Whether an element holds a list of notes and no other words."""
    return all(
        child.tag in ("ol", "ul", "hr", "h1", "h2", "h3", "h4", "h5", "h6")
        for child in around.iter()
    )
