"""Plain records that are within one document: JSON (JSONPath, RFC 9535) and XML (XPath 1.0)."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

import msgspec
from lxml import etree

from newburrow.dialects.json_selector import JsonSelector
from newburrow.dialects.schema import Dialect
from newburrow.dialects.selector import Selector, forget, resolve_entities
from newburrow.formats import json_stream
from newburrow.formats.base import Input, Job, Output, Writer
from newburrow.formats.json_stream import Steps
from newburrow.formats.records.base import RecordFormat
from newburrow.formats.records.record_facts import CompiledMap
from newburrow.formats.records.record_view import JsonView, RecordView, XmlView
from newburrow.formats.records.writer import RecordOptions, RecordWriter
from newburrow.intake.head import Head
from newburrow.intake.xml_errors import not_well_formed

_STEP = re.compile(
    r"""\.([^\W\d][\w-]*)|\[(['"])((?:(?!\2)[^\\])*)\2\]|(\.\*|\[\*\])|(\[\?.*\])$"""
)


class JsonPlaces:
    """A JSONPath query whose values can be found while the file streams: names, `*`, and a filter at the end."""

    def __init__(self, text: str) -> None:
        self.steps: list[str | None] = []
        self.filter: JsonSelector | None = None
        place = 1
        if not text.startswith("$"):
            self.steps, place = [text], len(text)  # the name of a member
        while place < len(text):
            found = _STEP.match(text, place)
            if not found:
                raise ValueError(
                    f"{text!r} can take names, [*] and a filter at its end, such as $.posts[*]"
                )
            name = found[1] or (found[3] if found[2] else "")
            self.steps.append(name or None)
            if found[5]:
                self.filter = JsonSelector(f"${found[5]}")
            place = found.end()
        JsonSelector(text)

    @staticmethod
    def first(text: str) -> str:
        """The name that a query begins with; empty where it begins with none."""
        if text.startswith("$"):
            found = _STEP.match(text, 1)
        else:
            found = None
        if not text.startswith("$"):
            return text
        if found:
            return found[1] or found[3] or ""
        return ""

    def leads_to(self, steps: Steps) -> bool:
        """Whether the value at these steps is one of those."""
        return len(steps) == len(self.steps) and all(
            wanted is None or wanted == step
            for wanted, step in zip(self.steps, steps, strict=True)
        )

    def passes(self, steps: Steps) -> bool:
        """Whether such values are within the one at these steps."""
        return len(steps) < len(self.steps) and all(
            wanted is None or wanted == step
            for wanted, step in zip(self.steps, steps, strict=False)
        )

    def takes(self, value: Any) -> bool:
        """Whether the filter lets a value pass."""
        return self.filter is None or bool(self.filter.found([value]))


class Json(RecordFormat):
    """JSON with lists of records."""

    name = "json"
    has_menus = True  # where there is a template for them
    title = "JSON (RFC 8259)"

    def recognise(self, head: Head) -> bool:
        """Whether it begins as an object or a list."""
        return head.start.removeprefix(b"\xef\xbb\xbf").lstrip()[:1] in (b"{", b"[")

    def check_each(self, text: str) -> None:
        """Raises ValueError unless the selector can be followed while the file streams."""
        JsonPlaces(text)

    def check_options(self, options: dict[str, Any]) -> None:
        """The options are those of RecordOptions."""
        msgspec.convert(options, RecordOptions)

    def write(self, output: Output, job: Job) -> Writer:
        """Lists of records by the templates of the host."""
        return RecordWriter(output, job)

    def views(
        self, source: Input, maps: list[CompiledMap], unread: Counter[str]
    ) -> Iterator[tuple[CompiledMap, RecordView]]:
        """The values that `each` leads to, in document order.

        Without `each` these are the items of the list on top, or the object on top: of that, the members that lead to
        no other records are gathered, and it comes last.
        """
        places = _Places(maps, unread)
        top, line = dict[str, Any](), 0
        for value in json_stream.values(source.stream, source.label, places.wanted):
            fitting = places.at(value.steps)
            for rules, place in fitting:
                # A list that is itself selected stands for its items; an object is one record.
                is_list = isinstance(value.value, list)
                for member in value.value if is_list else [value.value]:
                    if place.takes(member):
                        if is_list:
                            name = ""
                        else:
                            name = value.steps[-1] or ""
                        yield rules, JsonView(member, value.line, name)
            if not fitting and value.steps[0] is None:
                yield from ((rules, JsonView(value.value, value.line)) for rules in places.tops)
            elif not fitting:
                top[value.steps[0] or ""] = value.value
                line = line or value.line
        if top:
            yield from ((rules, JsonView(top, line)) for rules in places.tops)


class _Places:
    """Where in one document the records of all maps are."""

    def __init__(self, maps: list[CompiledMap], unread: Counter[str]) -> None:
        self.tops = [rules for rules in maps if rules.rules.each in ("", "$")]
        self.unread = unread
        self._within = [
            (rules, JsonPlaces(rules.rules.each)) for rules in maps if rules not in self.tops
        ]
        # of the object on top
        self._named = {name for rules in self.tops for name in _members(rules)}

    def at(self, steps: Steps) -> list[tuple[CompiledMap, JsonPlaces]]:
        """The maps whose records are here."""
        return [(rules, place) for rules, place in self._within if place.leads_to(steps)]

    def wanted(self, steps: Steps) -> bool:
        """Whether a value is a record, or a fact of the object on top; what leads to neither is counted."""
        if not steps or self._passes(steps):
            return False
        if self.at(steps) or (
            len(steps) == 1 and self.tops and (steps[0] is None or steps[0] in self._named)
        ):
            return True
        if len(steps) == 1 or self._passes(steps[:-1]):
            self.unread[steps[-1] or "items"] += 1
        return False

    def _passes(self, steps: Steps) -> bool:
        return any(place.passes(steps) for _rules, place in self._within)


def _members(rules: CompiledMap) -> Iterator[str]:
    """Names of the members that the selectors of a map begin with."""
    own = rules.rules
    groups = (own.take, own.terms, own.fields)
    texts = [
        text
        for group in groups
        for member in group.values()
        for text in ([member] if isinstance(member, str) else member)
    ]
    texts += [pair.element for pair in own.pairs] + [
        inner.each for inner in own.inner if inner.each
    ]
    for text in texts:
        yield JsonPlaces.first(text)


class Xml(RecordFormat):
    """XML with elements that are records."""

    name = "xml"
    title = "XML 1.0"

    def recognise(self, head: Head) -> bool:
        """Whether it is XML."""
        return head.prolog is not None

    def compiler(self, dialect: Dialect) -> Callable[[str], Any]:
        """XPath 1.0 with the prefixes of the dialect."""
        return lambda text: Selector(text, dialect.namespaces)

    def check_each(self, text: str) -> None:
        """A path of element names; a predicate can be at its end."""
        _last_name(text)

    def views(
        self, source: Input, maps: list[CompiledMap], unread: Counter[str]
    ) -> Iterator[tuple[CompiledMap, RecordView]]:
        """The elements that `each` selects, in document order; one that holds other records comes after these.

        Such a holder, as the element on top may be, has only what is in no other record.
        """
        names = source.dialect.namespaces
        rules_of: dict[str, list[tuple[CompiledMap, etree.XPath | None]]] = {}
        for rules in maps:
            each = rules.rules.each
            if _is_name(each):
                path = None
            else:
                path = etree.XPath(_from_root(each), namespaces=names or None)
            rules_of.setdefault(_last_name(each, names), []).append((rules, path))
        events = etree.iterparse(
            source.stream,
            events=("start", "end"),
            resolve_entities=False,
            no_network=True,
            load_dtd=False,
            huge_tree=True,
            remove_comments=True,
            remove_pis=True,
        )
        around = _OpenRecords(_holders(maps, names))
        try:
            for event, element in events:
                is_record = element.tag in rules_of
                if event == "start":
                    if is_record:
                        around.begin(element)
                elif is_record:
                    around.end(element)
                    fitting = _fitting(element, rules_of[element.tag])
                    yield from ((rules, XmlView(element)) for rules in fitting)
                    around.free(element)
                elif not around and (element.text or "").strip():
                    unread[element.tag] += 1
        except etree.XMLSyntaxError as error:
            raise not_well_formed(error, source.label) from None


class _OpenRecords:
    """The elements that are open and are records by their name, those that hold other records apart."""

    def __init__(self, holders: set[str]) -> None:
        self._tags, self._holders, self._depth = holders, list[etree._Element](), 0

    def __bool__(self) -> bool:
        """Whether any is open."""
        return bool(self._depth or self._holders)

    def begin(self, element: etree._Element) -> None:
        """Note an element that begins."""
        if element.tag in self._tags and not self._depth:
            self._holders.append(element)
        else:
            self._depth += 1

    def end(self, element: etree._Element) -> None:
        """Note that an element ends."""
        if self._holders and self._holders[-1] is element:
            self._holders.pop()
        else:
            self._depth -= 1

    def free(self, element: etree._Element) -> None:
        """Free an element that was read, unless it is within a record; what is around it stays for its holder."""
        if self._depth:
            return
        parent = element.getparent()
        if self._holders and parent is not None:
            element.clear()
            parent.remove(element)
        else:
            forget(element)


def _fitting(
    element: etree._Element, rules_of: list[tuple[CompiledMap, etree.XPath | None]]
) -> list[CompiledMap]:
    """The maps that select an element of their name."""
    document: Any = element.getroottree().docinfo
    if document.doctype:
        resolve_entities(element)
    return [rules for rules, path in rules_of if path is None or _selects(path, element)]


def _holders(maps: list[CompiledMap], names: dict[str, str]) -> set[str]:
    """The tags of elements that are records and hold those of other maps, by the paths of these."""
    paths = [rules.rules.each for rules in maps if not _is_name(rules.rules.each)]
    return {
        _last_name(holder, names)
        for holder in paths
        if any(path.startswith(f"{holder}/") for path in paths)
    }


def _is_name(each: str) -> bool:
    return re.fullmatch(r"[\w:.-]+", each) is not None


def _from_root(each: str) -> str:
    """The path as one from the top of the document, so that it can be asked at any element."""
    if each.startswith("/"):
        return each
    return f"//{each}"


def _last_name(each: str, names: dict[str, str] | None = None) -> str:
    """The tag of the elements that a path selects. Raises ValueError where it does not end in a name."""
    found = re.search(r"(?:^|/)(?:([\w.-]+):)?([\w.-]+)(?:\[[^\]]*\])?$", each)
    if not found:
        raise ValueError(
            f"{each!r} does not end in the name of an element, such as /export/post"
        )
    if not found[1]:
        return found[2]
    return f"{{{(names or {}).get(found[1], '')}}}{found[2]}"


def _selects(path: etree.XPath, element: etree._Element) -> bool:
    found: Any = path(element)
    return isinstance(found, list) and any(member is element for member in found)
