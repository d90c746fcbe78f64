"""Elements of an XML document found by their names without the namespace, which versions of a standard differ in."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from lxml import etree

_MOST_NAMES = 1024  # that are remembered
_XML = "{http://www.w3.org/XML/1998/namespace}"


class _BareNames(dict[Any, str]):
    """Names without their namespaces, by what the parser calls them; a function is not an element."""

    def __missing__(self, tag: Any) -> str:
        if len(self) >= _MOST_NAMES:
            self.clear()
        self[tag] = bare = tag.rpartition("}")[2] if isinstance(tag, str) else ""
        return bare


_bare_names = _BareNames()


@lru_cache(maxsize=1024)
def _in_any(name: str) -> str:
    """The name in any namespace or none, as the parser's own filters want it."""
    return f"{{*}}{name}"


def local(element: etree._Element) -> str:
    """The name of an element without its namespace; empty for a comment or a processing instruction."""
    return _bare_names[element.tag]


def namespace(element: etree._Element) -> str:
    """The namespace of an element; empty where it has none."""
    if str(element.tag).startswith("{"):
        return element.tag[1:].partition("}")[0]
    return ""


def children(element: etree._Element, *names: str) -> Iterator[etree._Element]:
    """The child elements, those of these names where any are given."""
    if names:
        return element.iterchildren(*map(_in_any, names))
    return element.iterchildren("*")


def child(element: etree._Element | None, path: str) -> etree._Element | None:
    """The first element at a path of names, such as `outcomes/decvar`; None where there is none."""
    for name in path.split("/"):
        if element is None:
            return None
        element = next(element.iterchildren(_in_any(name)), None)
    return element


def descendants(element: etree._Element, *names: str) -> Iterator[etree._Element]:
    """All elements below one, in document order, of these names."""
    return element.iterdescendants(*map(_in_any, names))


def words(element: etree._Element | None) -> str:
    """The text of an element and all below it, with single spaces."""
    if element is None:
        return ""
    return " ".join(all_text(element).split())


def all_text(element: etree._Element) -> str:
    """The text of an element and all below it, as it stands."""
    if not len(element):  # as most are
        return element.text or ""
    return "".join(map(str, element.itertext()))


def xml_of(element: etree._Element) -> str:
    """An element with all that is in it, as XML."""
    return str(etree.tostring(element, encoding="unicode", with_tail=False))


def line_of(element: etree._Element) -> int:
    """The line that an element begins in; 0 where that is not known."""
    line: Any = element.sourceline
    return int(line or 0)


def attribute(element: etree._Element, name: str) -> str:
    """An attribute that has no namespace; empty where there is none."""
    value = element.get(name)
    if value:
        return value.strip()
    return ""


def xml_attribute(element: etree._Element, name: str) -> str:
    """An attribute of XML itself, `base` or `lang`; also one that lacks its prefix."""
    return (element.get(f"{_XML}{name}") or element.get(name) or "").strip()


def number(text: str) -> float | None:
    """A finite number; None for anything else."""
    try:
        value = float(text)
    except ValueError:
        return None
    if abs(value) < 1e15:
        return value
    return None
