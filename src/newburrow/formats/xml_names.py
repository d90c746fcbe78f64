"""Elements of an XML document found by their names without the namespace, which versions of a standard differ in."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from lxml import etree


def local(element: etree._Element) -> str:
    """The name of an element without its namespace; empty for a comment or a processing instruction."""
    if isinstance(element.tag, str):
        return element.tag.rpartition("}")[2]
    return ""


def namespace(element: etree._Element) -> str:
    """The namespace of an element; empty where it has none."""
    return element.tag[1:].partition("}")[0] if str(element.tag).startswith("{") else ""


def children(element: etree._Element, *names: str) -> Iterator[etree._Element]:
    """The child elements, those of these names where any are given."""
    for child in element:
        name = local(child)
        if name and (not names or name in names):
            yield child


def child(element: etree._Element | None, path: str) -> etree._Element | None:
    """The first element at a path of names, such as `outcomes/decvar`; None where there is none."""
    for name in path.split("/"):
        if element is None:
            return None
        element = next(children(element, name), None)
    return element


def descendants(element: etree._Element, *names: str) -> Iterator[etree._Element]:
    """All elements below one, in document order, of these names."""
    for found in element.iterdescendants():
        if local(found) in names:
            yield found


def words(element: etree._Element | None) -> str:
    """The text of an element and all below it, with single spaces."""
    if element is None:
        return ""
    return " ".join(all_text(element).split())


def all_text(element: etree._Element) -> str:
    """The text of an element and all below it, as it stands."""
    return "".join(str(piece) for piece in element.itertext())


def line_of(element: etree._Element) -> int:
    """The line that an element begins in; 0 where that is not known."""
    line: Any = element.sourceline
    return int(line or 0)


def attribute(element: etree._Element, name: str) -> str:
    """An attribute by its name without the namespace; empty where there is none."""
    if name in element.attrib:
        return str(element.attrib[name]).strip()
    for key, value in element.attrib.items():
        if str(key).rpartition("}")[2] == name:
            return str(value).strip()
    return ""


def number(text: str) -> float | None:
    """A finite number; None for anything else."""
    try:
        value = float(text)
    except ValueError:
        return None
    return value if abs(value) < 1e15 else None
