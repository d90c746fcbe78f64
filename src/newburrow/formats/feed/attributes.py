"""Attributes of elements that are read: those that nothing asks for are kept too, and said."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import msgspec
from lxml import etree

from newburrow.dialects.schema import Dialect

_XML = "{http://www.w3.org/XML/1998/namespace}"
_THREADS = "{http://purl.org/syndication/thread/1.0}"
# Those that the feed formats themselves define for the elements that are read, and that say how a text is written.
_OF_FORMATS = frozenset(
    ("isPermaLink", "domain", "term", "scheme", "label", "rel", "href", "type", "title", "hreflang", "length",
     "url", "src", "ref", "source", "mode", _XML + "lang", _XML + "base", _XML + "space", _THREADS + "count",
     _THREADS + "updated", "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}about",
     "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}resource", "{http://www.w3.org/2001/XMLSchema-instance}type")
)  # fmt: skip
_NAMED = re.compile(r"@(?:([\w.-]+):)?([\w.-]+)")


def asked_for(dialect: Dialect) -> frozenset[str]:
    """The names of all attributes that the formats or the selectors of a dialect ask for, in Clark notation."""
    found = set(_OF_FORMATS)
    for text in _texts(msgspec.to_builtins(dialect)):
        for prefix, name in _NAMED.findall(text):
            uri = dialect.namespaces.get(prefix, "")
            found.add(f"{{{uri}}}{name}" if uri else name)
    return frozenset(found)


def _texts(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for held in value.values():
            yield from _texts(held)
    elif isinstance(value, list):
        for held in value:
            yield from _texts(held)


def unread(elements: list[etree._Element], asked: frozenset[str]) -> dict[str, list[str]]:
    """Name -> values of the attributes of some elements that nothing asks for; blank ones say nothing."""
    found: dict[str, list[str]] = {}
    for element in elements:
        for name, value in element.attrib.items() if element.attrib else ():
            if name not in asked and value.strip():
                found.setdefault(str(name), []).append(str(value))
    return found
