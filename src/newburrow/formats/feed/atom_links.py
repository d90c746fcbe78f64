"""Atom's `link` elements (RFC 4287 4.2.7) of one entry; an item of RSS can have them too."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from lxml import etree

from newburrow.core import url

_PAGES = ("", "text/html", "application/xhtml+xml")
# registered or customary relations to the same page at another address
_SAME_PAGE = ("alternate", "canonical", "shortlink")


class AtomLinks:
    """The links of one entry."""

    def __init__(self, elements: Sequence[etree._Element], base: str) -> None:
        """`base` is the address that theirs are relative to."""
        self._links = [
            (_relation(element), element.get("href", ""), _is_page(element))
            for element in elements
        ]
        self._base = base

    def page(self) -> str:
        """The address of the entry as a page, rather than as data; empty where there is none."""
        alternates = [link for link in self._links if link[0] == "alternate"]
        pages = [link for link in alternates if link[2]] or alternates
        return next((href for _relation, href, _is_page in pages), "")

    def other_pages(self, is_own: Callable[[str], bool]) -> list[str]:
        """Further addresses of the entry on its site; `is_own` judges an absolute one."""
        return [
            href
            for relation, href, is_page in self._links
            if relation in _SAME_PAGE and is_page and is_own(url.resolve(self._base, href))
        ]

    def unread(self, relations: Sequence[str], addresses: Sequence[str]) -> list[str]:
        """Relation and address of each link that has no place.

        Passed over are links of these relations, and those that lead to one of these absolute addresses.
        """
        return [
            f"{relation} {href}".strip()
            for relation, href, _is_page in self._links
            if relation not in relations and url.resolve(self._base, href) not in addresses
        ]


def _relation(link: etree._Element) -> str:
    """What the link leads to; `alternate` where nothing is said (RFC 4287 4.2.7.2)."""
    return link.get("rel", "alternate").strip().lower()


def _is_page(link: etree._Element) -> bool:
    return link.get("type", "").partition(";")[0].strip().lower() in _PAGES
