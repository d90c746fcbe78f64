"""The lines of a menu in nested lists of links, whatever the page or text that they are on."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from selectolax.lexbor import LexborNode


def lines(
    nav: LexborNode, resolved: Callable[[str], str], menu: str = "main", before: int = 0
) -> Iterator[dict[str, list[str]]]:
    """The links in an element, each under the link of the list item around its own.

    Gives for each the facts of a line of a menu, as lists of texts; `resolved` makes an address absolute, `menu` is
    the name of the menu, `before` the number of lines in menus before it.
    """
    keys: dict[int, str] = {}  # `mem_id` of a list item -> the key of its line
    seen = set[tuple[str, str]]()
    for number, link in enumerate(nav.css("a[href]"), before + 1):
        label, target = (
            " ".join((link.text() or "").split()),
            resolved(link.attributes.get("href") or ""),
        )
        if not label or target.startswith("#") or (label, target) in seen:
            continue
        seen.add((label, target))
        own, above = _items_around(link, nav)
        parent = next((keys[item] for item in above if item in keys), "")
        key = f"menu/{number}"
        if own:
            keys.setdefault(own, key)
        yield {
            "id": [key],
            "menu": [menu],
            "label": [label],
            "target": [target],
            "parent": [parent] if parent else [],
            "position": [str(number)],
        }


def _items_around(link: LexborNode, nav: LexborNode) -> tuple[int, list[int]]:
    """The list item that a link is in, and those around that one, the innermost first."""
    items = []
    node = link.parent
    while node is not None and node.mem_id != nav.mem_id:
        if node.tag == "li":
            items.append(node.mem_id)
        node = node.parent
    if items:
        return items[0], items[1:]
    return 0, []
