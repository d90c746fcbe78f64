"""The lists of records in files whose structure no dialect describes, with what their fields hold."""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Callable, Iterable
from typing import Any, BinaryIO

from lxml import etree

from newburrow.assess.dialect_draft.guesses import type_by_name
from newburrow.assess.dialect_draft.observations import Observed, prefixes
from newburrow.assess.dialect_draft.tables import ExportTables, Table
from newburrow.dialects.selector import forget, local_name, namespace_of
from newburrow.formats import json_stream
from newburrow.formats.json_stream import Steps
from newburrow.formats.records.line_records import objects, rows
from newburrow.formats.records.record_view import text_of_value
from newburrow.intake.part import Part
from newburrow.intake.xml_errors import not_well_formed

_DEEPEST = 6  # objects within a record whose members are looked at
_SMALL = 1 << 22  # bytes of a JSON file that is one record
_SITE_FACTS = (
    "title",
    "name",
    "url",
    "address",
    "language",
    "description",
    "timezone",
    "zone",
    "generator",
)


def look(parts: Iterable[tuple[Part, str]]) -> ExportTables:
    """The tables in these parts, each with the name of its format. Raises BurrowError where one cannot be read."""
    found = ExportTables()
    lookers: dict[str, Callable[[BinaryIO, Part, ExportTables], None]] = {
        "csv": _csv,
        "jsonlines": _json_lines,
        "json": _json,
        "xml": _xml,
    }
    for part, format_name in parts:
        with part.open() as stream:
            lookers[format_name](stream, part, found)
    return found


def _file(part: Part) -> tuple[str, str]:
    """The last name of a part, and without its extension."""
    last = part.name.rpartition("/")[2]
    return last, last.rpartition(".")[0] or last


# -- rows and JSON -----------------------------------------------------------------------------


def _csv(stream: BinaryIO, part: Part, found: ExportTables) -> None:
    file, name = _file(part)
    table = found.table(name, "csv", file, "")
    for _line, row in rows(stream, part.label):
        _note(table, row)


def _json_lines(stream: BinaryIO, part: Part, found: ExportTables) -> None:
    file, name = _file(part)
    table = found.table(name, "jsonlines", file, "")
    for _line, value in objects(stream, part.label):
        _note(table, value)


def _json(stream: BinaryIO, part: Part, found: ExportTables) -> None:
    file, stem = _file(part)
    lists = 0
    for value in json_stream.values(stream, part.label, _item_or_fact):
        if value.steps and value.steps[-1] is None:
            path = value.steps[:-1]
            if path:
                each = f"{_json_path(path, always=True)}[*]"
            else:
                each = ""
            _note(
                found.table((path[-1] if path else stem) or stem, "json", file, each),
                value.value,
            )
            lists += 1
        elif isinstance(value.value, str | int | float):
            each = _json_path(value.steps[:-1], always=True)
            found.fact("json", file, value.steps[-1] or "", text_of_value(value.value), each)
    _open_wrappers(file, found)
    if not lists and part.size < _SMALL:
        found.site.pop(file, None)
        with part.open() as again:
            record = json_stream.decoded(again.read().decode("utf-8-sig"))
        folder = part.name.rpartition("/")[0]
        name = folder.rpartition("/")[2] or stem
        _note(found.table(name, "json", f"{folder}/*.json" if folder else file, "$"), record)


def _open_wrappers(file: str, found: ExportTables) -> None:
    """A list of one thing that is no record but holds lists of them stands for these lists."""
    for key, table in list(found.tables.items()):
        if key[0] == file and table.count == 1 and table.inner and not type_by_name(table.name):
            del found.tables[key]
            for inner in table.inner.values():
                inner.file, inner.each = file, table.each + inner.each.removeprefix("$")
                found.tables[file, inner.each] = inner


def _item_or_fact(steps: Steps) -> bool:
    """Whether a value is an item of an outermost list, or may be a fact of the site."""
    return bool(steps) and (
        steps[-1] is None or (len(steps) <= 2 and steps[-1].lower() in _SITE_FACTS)
    )


def _note(table: Table, record: object) -> None:
    table.count += 1
    if isinstance(record, dict):
        _members(table, record, ())


def _members(table: Table, record: dict[str, Any], path: tuple[str, ...]) -> None:
    for name, value in record.items():
        place = (*path, str(name))
        if isinstance(value, dict) and len(path) < _DEEPEST:
            _members(table, value, place)
        elif isinstance(value, list):
            records = [member for member in value if isinstance(member, dict)]
            for member in records:
                _note(table.within(f"{_json_path(place, always=True)}[*]", str(name)), member)
            for member in value if not records else ():
                table.note(_json_path(place), text_of_value(member), many=True)
        elif value is not None:
            table.note(_json_path(place), text_of_value(value))


def _json_path(path: Iterable[str | None], always: bool = False) -> str:
    """The selector of a member: its name, or a JSONPath query (RFC 9535)."""
    names = list(path)
    if len(names) == 1 and names[0] and not always and not names[0].startswith("$"):
        return names[0]
    steps = (
        "[*]"
        if name is None
        else f".{name}"
        if re.fullmatch(r"[A-Za-z_]\w*", name)
        else f"[{json.dumps(name)}]"
        for name in names
    )
    return "$" + "".join(steps)


# -- XML ---------------------------------------------------------------------------------------


def _xml(stream: BinaryIO, part: Part, found: ExportTables) -> None:
    file, _stem = _file(part)
    try:
        root, spaces = _structure(stream)
    except etree.XMLSyntaxError as error:
        raise not_well_formed(error, part.label) from None
    found.prefixes |= {
        space: prefix
        for space, prefix in prefixes(list(spaces)).items()
        if space not in found.prefixes
    }
    for tag, node in root.children.items():
        _below(f"/{_name(tag, found)}", tag, node, file, found)


def _structure(stream: BinaryIO) -> tuple[Observed, dict[str, None]]:
    """Each place that has elements, with all that was seen there."""
    top, spaces = Observed(), dict[str, None]()
    path = [top]
    counts: list[Counter[str]] = [Counter()]
    events = etree.iterparse(
        stream,
        events=("start", "end"),
        resolve_entities=False,
        no_network=True,
        load_dtd=False,
        huge_tree=True,
        remove_comments=True,
        remove_pis=True,
    )
    for event, element in events:
        tag = str(element.tag)
        if event == "start":
            if tag.startswith("{"):
                spaces.setdefault(tag[1:].partition("}")[0])
            counts[-1][tag] += 1
            counts.append(Counter())
            path.append(path[-1].children.setdefault(tag, Observed()))
            continue
        counts.pop()
        node = path.pop()
        node.many = node.many or counts[-1][tag] > 1
        node.note((element.text or "").strip())
        for name, value in element.attrib.items():
            node.attributes.setdefault(str(name), Observed()).note(str(value))
        forget(element)
    return top, spaces


def _below(path: str, tag: str, node: Observed, file: str, found: ExportTables) -> None:
    """Look for lists of records at and below one place."""
    if node.many and (node.children or node.attributes):
        table = found.table(local_name(tag), "xml", file, path)
        table.count = node.count
        _fields(table, node, "", found)
        return
    for child, below in node.children.items():
        if _holds_one(tag, child):
            below.many = True  # a list of one
        if below.children or below.many:
            _below(f"{path}/{_name(child, found)}", child, below, file, found)
        else:
            for value, number in below.values.items():
                for _ in range(number):
                    found.fact("xml", file, _name(child, found), value, path)


def _fields(table: Table, node: Observed, path: str, found: ExportTables) -> None:
    for name, seen in node.attributes.items():
        table.columns[f"{path}@{_name(name, found)}"] = seen
    for tag, child in node.children.items():
        selector = path + _name(tag, found)
        if child.children and (child.many or _holds_one(path, tag)):
            inner = table.within(selector, local_name(tag))
            inner.count = child.count
            _fields(inner, child, "", found)
        elif child.children:
            _fields(table, child, f"{selector}/", found)
        else:
            table.columns[selector] = child
            for name, seen in child.attributes.items():
                table.columns[f"{selector}/@{_name(name, found)}"] = seen


def _holds_one(outer: str, inner: str) -> bool:
    """Whether an element is named as a list of others: posts of post."""
    return _local(outer) in (f"{_local(inner)}s", f"{_local(inner)[:-1]}ies")


def _local(tag: str) -> str:
    return tag.rstrip("/").rpartition("/")[2].rpartition("}")[2].rpartition(":")[2].lower()


def _name(tag: str, found: ExportTables) -> str:
    prefix = found.prefixes.get(namespace_of(tag))
    if prefix:
        return f"{prefix}:{local_name(tag)}"
    return local_name(tag)
