"""Selectors: XPath 1.0 expressions, with the common simple ones answered from an index.

Most selectors name one child element, an attribute, or both. A pass over an item's children gives an
index that answers these about ten times as fast as the XPath engine does.
"""

from __future__ import annotations

import contextlib
import copy
import html
import re
from collections.abc import Iterable
from typing import Any

from lxml import etree

_NAME = r"(?:([\w.-]+):)?([\w.-]+)"
_SIMPLE = re.compile(rf"(?:{_NAME})?(?:(?:(?<=\w)/)?@{_NAME})?")

_LONGEST = 2000  # characters of an expression
Index = dict[str, list[etree._Element]]


def index(element: etree._Element) -> Index:
    """The children of an element by their tag, each list in document order."""
    found: Index = {}
    for child in element.iterchildren(tag=etree.Element):
        found.setdefault(child.tag, []).append(child)
    return found


def text_of(element: etree._Element) -> str:
    """All text in an element, also that of its descendants, unchanged."""
    if len(element) == 0:
        return element.text or ""
    return "".join(str(piece) for piece in element.itertext())


def check_length(text: str) -> None:
    """Raises ValueError for an expression that is longer than any that a person writes."""
    if len(text) > _LONGEST:
        raise ValueError(
            f"an expression has at most {_LONGEST:,} characters, and this has {len(text):,}"
        )


def local_name(tag: str) -> str:
    """The name of an element without its namespace, whatever signs a parser lets stand in it."""
    return tag.rpartition("}")[2]


def namespace_of(tag: str) -> str:
    """The namespace of an element; empty where it has none."""
    return tag[1:].rpartition("}")[0]


def without_namespaces(element: etree._Element) -> None:
    """Take the namespace away from an element and all in it; one whose name cannot stand alone keeps it."""
    for descendant in element.iter(tag=etree.Element):
        with contextlib.suppress(ValueError):
            descendant.tag = local_name(str(descendant.tag))


def inner_html(element: etree._Element) -> str:
    """What is in an element as HTML: its text, or the markup of its children without their namespaces."""
    if len(element) == 0:
        return element.text or ""
    copied = copy.deepcopy(element)
    without_namespaces(copied)
    pieces = [html.escape(copied.text or "", quote=False)]
    for child in list(copied):
        copied.remove(child)
        etree.cleanup_namespaces(child)
        pieces.append(str(etree.tostring(child, encoding="unicode", method="html")))
    return "".join(pieces)


def resolve_entities(element: etree._Element) -> None:
    """Replace the references to HTML's named characters within an element by the characters.

    Only a document with a DTD that is not read has such references (XML 1.0 section 4.1); older feeds do.
    Other references become text as they are written.
    """
    for reference in list(element.iter(etree.Entity)):
        text = html.unescape(str(reference.text)) + (reference.tail or "")
        parent, before = reference.getparent(), reference.getprevious()
        if parent is None:
            continue
        if before is None:
            parent.text = (parent.text or "") + text
        else:
            before.tail = (before.tail or "") + text
        reference.tail = None
        parent.remove(reference)


class Selector:
    """One compiled selector. Raises ValueError, saying why, where the text is no selector."""

    def __init__(self, text: str, namespaces: dict[str, str]) -> None:
        check_length(text)
        self.text = text
        self._xpath: etree.XPath | None = None
        self.is_child = False  # whether it names a child element and no more
        self.is_element = True  # whether what it selects is elements
        self.tag = self._attribute = ""
        self.own_attribute = ""  # of the element itself, where it names no more than that
        simple = _SIMPLE.fullmatch(text)
        if text == ".":
            return
        if text and simple:
            self.tag = _clark(simple[1], simple[2], namespaces)
            self._attribute = _clark(simple[3], simple[4], namespaces)
            self.is_child = bool(self.tag) and not self._attribute
            self.is_element = not self._attribute
            if self.tag:
                self.own_attribute = ""
            else:
                self.own_attribute = self._attribute
            return
        try:
            self._xpath = etree.XPath(text, namespaces=namespaces or None)
            self._xpath(etree.Element("probe"))  # an unknown prefix shows only when it is used
        except etree.XPathError as error:
            raise ValueError(f"{text!r} is not an XPath 1.0 expression: {error}") from None

    @property
    def is_expression(self) -> bool:
        """Whether it is more than a name, an attribute, or both."""
        return self._xpath is not None

    def elements(self, element: etree._Element, children: Index) -> list[etree._Element]:
        """The elements selected."""
        if self._xpath is not None:
            found = self._xpath(element)
            if isinstance(found, list):
                return [element for element in found if etree.iselement(element)]
            return []
        if self.tag:
            return children.get(self.tag, [])
        return [element]

    def texts(self, element: etree._Element, children: Index) -> list[str]:
        """The texts that an XPath 1.0 expression selects, relative to an element.

        Of an element its whole text, of an attribute its value; a number or a string is one text. A simple
        path is answered from `children`, an index of the element's children, without running XPath.
        """
        if self._xpath is not None:
            found = self._xpath(element)
            if not isinstance(found, list):
                return [f"{found:g}" if isinstance(found, float) else str(found)]
            return [
                text_of(element) if etree.iselement(element) else str(element)
                for element in found
            ]
        if self.tag:
            elements = list(children.get(self.tag, ()))
        else:
            elements = [element]
        if self._attribute:
            return [
                value
                for element in elements
                if (value := element.get(self._attribute)) is not None
            ]
        return [text_of(element) for element in elements]

    def placed(
        self, element: etree._Element, children: Index
    ) -> list[tuple[str, tuple[etree._Element, str] | None]]:
        """The texts, each with the element that it is in and the attribute, where it is in one."""
        if self._xpath is None:
            elements = self.elements(element, children)
            if not self._attribute:
                return [(text_of(element), (element, "")) for element in elements]
            return [
                (element.get(self._attribute, ""), (element, self._attribute))
                for element in elements
            ]
        found: Any = self._xpath(element)
        if not isinstance(found, list):
            return [(text, None) for text in self.texts(element, children)]
        placed: list[tuple[str, tuple[etree._Element, str] | None]] = []
        for found_element in found:
            if etree.iselement(found_element):
                placed.append((text_of(found_element), (found_element, "")))
            else:
                if hasattr(found_element, "getparent"):
                    holder = found_element.getparent()
                else:
                    holder = None
                if holder is not None:
                    place = (
                        holder,
                        found_element.attrname if found_element.is_attribute else "",
                    )
                else:
                    place = None
                placed.append((str(found_element), place))
        return placed


def forget(element: etree._Element) -> None:
    """Free an element that was read, and all siblings before it.

    Clearing the element alone is not enough: the list of its emptied siblings would grow with the export.
    """
    element.clear()
    parent = element.getparent()
    while parent is not None and element.getprevious() is not None:
        del parent[0]


def kept(element: etree._Element) -> str:
    """An element as text for `extra`.

    The text alone if the element has neither attributes nor children; otherwise its XML, so that nothing
    of it is lost.
    """
    if len(element) or element.attrib:
        return str(etree.tostring(element, encoding="unicode", with_tail=False))
    return (element.text or "").strip()


def _clark(prefix: str | None, local: str | None, namespaces: dict[str, str]) -> str:
    if not local:
        return ""
    if not prefix:
        return local
    if prefix not in namespaces:
        raise ValueError(f"the prefix {prefix!r} is not declared in [namespaces]")
    return f"{{{namespaces[prefix]}}}{local}"


class Selectors:
    """Several selectors for one fact: the first that finds a text that is not blank wins."""

    def __init__(self, texts: str | Iterable[str], namespaces: dict[str, str]) -> None:
        self.all = [
            Selector(text, namespaces)
            for text in ([texts] if isinstance(texts, str) else texts)
        ]

    def __bool__(self) -> bool:
        return bool(self.all)

    def first(self, element: etree._Element, children: Index) -> str:
        """The first text found, stripped; empty where there is none."""
        for selector in self.all:
            if selector.is_child:  # by far the most common; spares a list and a call
                for child_element in children.get(selector.tag, ()):
                    text = (
                        text_of(child_element)
                        if len(child_element)
                        else child_element.text or ""
                    ).strip()
                    if text:
                        return text
                continue
            if selector.own_attribute:
                if text := (element.get(selector.own_attribute) or "").strip():
                    return text
                continue
            for text in selector.texts(element, children):
                if text := text.strip():
                    return text
        return ""

    def each(self, element: etree._Element, children: Index) -> list[str]:
        """All texts found that are not blank, stripped."""
        found = (
            text.strip() for selector in self.all for text in selector.texts(element, children)
        )
        return [text for text in found if text]

    @property
    def child(self) -> str:
        """The tag of the child element if the selectors name nothing else; empty otherwise."""
        if len(self.all) == 1 and self.all[0].is_child:
            return self.all[0].tag
        return ""

    @property
    def tags(self) -> set[str]:
        """Tags of the child elements that these selectors read, as far as that is known beforehand."""
        return {selector.tag for selector in self.all if selector.tag}
