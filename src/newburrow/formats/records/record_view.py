"""One record as its selectors see it, be it an XML element, a JSON value, or a row of a table.

A view remembers what was taken from it, so that what was not can be kept.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from datetime import date, time
from typing import Any, Protocol

from lxml import etree

from newburrow.dialects import selector
from newburrow.dialects.json_selector import JsonSelector
from newburrow.model import Extra

KEY = "(key)"  # a selector of the name of the member that a record is


class RecordView(Protocol):
    """One record."""

    line: int

    def texts(self, selector_: Any) -> list[str]:
        """The texts that a compiled selector finds, unchanged, without blank ones."""
        ...

    def bodies(self, selector_: Any) -> list[str]:
        """The same texts, with the markup of what is in an element."""
        ...

    def inner(self, selector_: Any) -> list[RecordView]:
        """The records within this one."""
        ...

    def left(self) -> Extra:
        """The values that no selector has read, by their place."""
        ...


# -- JSON, rows, front matter ----------------------------------------------------------------


class JsonView:
    """A JSON value as a record. `prefix` is its place in the record around it."""

    def __init__(self, value: Any, line: int, name: str = "") -> None:
        """`name` is that of the member that holds the value; empty for an item of a list."""
        self.value, self.line, self.name = value, line, name
        self.paths_read: set[tuple[int | str, ...]] = set()

    def texts(self, selector_: JsonSelector) -> list[str]:
        """A list gives the texts of its items. The name of the record's own member is called `(key)`."""
        if selector_.name == KEY and self.name:
            return [self.name]
        found = []
        for place, value in selector_.found(self.value):
            self.paths_read.add(place)
            if isinstance(value, list):
                found += [text_of_value(member) for member in value]
            else:
                found += [text_of_value(value)]
        return [text for text in found if text.strip()]

    def bodies(self, selector_: JsonSelector) -> list[str]:
        """JSON has no markup of its own: the texts."""
        return self.texts(selector_)

    def inner(self, selector_: JsonSelector) -> list[RecordView]:
        """The items of a list, or an object."""
        views: list[RecordView] = []
        for place, value in selector_.found(self.value):
            self.paths_read.add(place)
            if isinstance(value, list):
                views += [JsonView(member, self.line) for member in value]
            else:
                views.append(JsonView(value, self.line, str(place[-1]) if place else ""))
        return views

    def left(self) -> Extra:
        """Members that were not taken; of an object that was taken in part, the rest."""
        extra: Extra = {}
        on_the_way = {place[:depth] for place in self.paths_read for depth in range(len(place))}
        waiting: list[tuple[tuple[int | str, ...], Any]] = [((), self.value)]
        while waiting:
            place, value = waiting.pop()
            if place in self.paths_read or value in (None, "", [], {}):
                continue
            if place in on_the_way or not place:
                pairs: Iterable[tuple[int | str, Any]] = (
                    value.items()
                    if isinstance(value, dict)
                    else enumerate(value)
                    if isinstance(value, list)
                    else ()
                )
                waiting += [((*place, name), member) for name, member in reversed(list(pairs))]
                if not isinstance(value, dict | list):
                    extra["value"] = [text_of_value(value)]
            else:
                extra.setdefault(
                    ".".join(str(step) for step in place if isinstance(step, str)), []
                ).append(text_of_value(value))
        return extra


def text_of_value(value: Any) -> str:
    """A value of a record as text.

    None is an empty text, a date is in its ISO 8601 form, and anything else that is not text is JSON.
    """
    if isinstance(value, str):
        return value
    if isinstance(value, date | time):
        return value.isoformat()
    if value is None:
        return ""
    return json.dumps(value, ensure_ascii=False, sort_keys=True, default=str)


# -- XML ----------------------------------------------------------------------------------------


class XmlView:
    """An XML element as a record."""

    def __init__(self, element: etree._Element) -> None:
        self.element = element
        self.line: int = element.sourceline if isinstance(element.sourceline, int) else 0
        self.children = selector.index(element)
        self.paths_read = set[tuple[etree._Element, str]]()  # elements, and attributes by name
        self.records: set[etree._Element] = set()  # within this one; they keep what is theirs

    def texts(self, selector_: selector.Selector) -> list[str]:
        """The texts of elements, attributes, or an expression."""
        found = []
        for value, place in selector_.placed(self.element, self.children):
            if place is not None:
                self.paths_read.add(place)
            found.append(value)
        return [text for text in found if text.strip()]

    def bodies(self, selector_: selector.Selector) -> list[str]:
        """The texts; of an element with children their markup too."""
        found = []
        for value, place in selector_.placed(self.element, self.children):
            if place is not None:
                self.paths_read.add(place)
            is_element = place is not None and not place[1]
            found.append(selector.inner_html(place[0]) if place and is_element else value)
        return [text for text in found if text.strip()]

    def inner(self, selector_: selector.Selector) -> list[RecordView]:
        """The elements selected."""
        found = selector_.elements(self.element, self.children)
        self.records.update(found)
        return [XmlView(element) for element in found]

    def left(self) -> Extra:
        """Attributes and elements that were not taken; of an element that was taken in part, the rest."""
        extra: Extra = {}
        read_whole = {element for element, attribute in self.paths_read if not attribute}
        on_the_way = {
            above
            for element, _attribute in self.paths_read
            for above in element.iterancestors()
        }
        on_the_way |= {above for record in self.records for above in record.iterancestors()}
        on_the_way |= {element for element, attribute in self.paths_read if attribute} | {
            self.element
        }
        waiting = [self.element]
        while waiting:
            element = waiting.pop()
            if element in self.records:
                continue
            for name, value in element.attrib.items():
                if (
                    (element, str(name)) not in self.paths_read
                    and str(value).strip()
                    and element in read_whole | on_the_way
                ):
                    if element is self.element:
                        tag = ""
                    else:
                        tag = f"{element.tag!s}/"
                    extra.setdefault(f"{tag}@{name!s}", []).append(str(value))
            if element in read_whole:
                continue
            if element in on_the_way:
                waiting += list(element.iterchildren(tag=etree.Element, reversed=True))
            elif text := selector.kept(element):
                extra.setdefault(str(element.tag), []).append(text)
        return extra
