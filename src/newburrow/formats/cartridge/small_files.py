"""The small XML files of a cartridge: web links, discussion topics, assignments and tools.

Common Cartridge 1.3, sections 4.4 (web links), 4.5 (discussion topics), 4.8 (tools), and the assignment extension.
"""

from __future__ import annotations

import html
from collections.abc import Iterator
from urllib.parse import unquote

from lxml import etree
from msgspec import Struct
from msgspec.structs import replace

from newburrow.formats.cartridge.metadata import OF_TEACHERS, everything
from newburrow.formats.qti1.material import without_file_base
from newburrow.formats.xml_names import (
    all_text,
    attribute,
    child,
    children,
    descendants,
    local,
    words,
)
from newburrow.model import Body, Entry, Extra

# Parts of a tool that are read; what else it says is kept.
_OF_TOOL = ("title", "description", "custom", "extensions", "secure_launch_url")


class _SmallFile(Struct, frozen=True):
    """What one of the files says."""

    title: str
    text: str
    fields: dict[str, str] = {}
    extra: Extra = {}


def entry_of(root: etree._Element, entry: Entry) -> Entry | None:
    """The entry with what its file says; None for a file with another root than its resource promises."""
    reader = _READERS.get(local(root))
    if reader is None:
        return None
    said = reader(root)
    return replace(
        entry,
        title=said.title or entry.title,
        body=Body(said.text, base=entry.body.base),
        fields={name: value for name, value in said.fields.items() if value},
        extra=entry.extra | said.extra,
    )


def _link(root: etree._Element) -> _SmallFile:
    title, element = words(child(root, "title")), child(root, "url")
    address = attribute(element, "href") if element is not None else ""
    shown = html.escape(title or address, quote=False)
    if address:
        text = f'<p><a href="{html.escape(address)}">{shown}</a></p>'
    else:
        text = ""
    extra = everything(element, "url") if element is not None else {}
    extra.pop("url/href", None)
    return _SmallFile(title, text, extra=extra)


def _topic(root: etree._Element) -> _SmallFile:
    text = _text(child(root, "text"))
    return _SmallFile(words(child(root, "title")), text + _attached(root))


def _assignment(root: etree._Element) -> _SmallFile:
    gradable = child(root, "gradable")
    formats = [attribute(found, "type") for found in descendants(root, "format")]
    fields = {
        "points": attribute(gradable, "points_possible") if gradable is not None else "",
        "graded": words(gradable),
        "hand_in": ", ".join(filter(None, formats)),
        "for_teachers": _text(child(root, "instructor_text"))
        + _attached(root, of_teachers=True),
    }
    text = _text(child(root, "text")) + _attached(root)
    extensions = child(root, "extensions")
    if extensions is not None:
        extra = everything(extensions, "extensions")
    else:
        extra = {}
    return _SmallFile(words(child(root, "title")), text, fields, extra)


def _tool(root: etree._Element) -> _SmallFile:
    title = words(child(root, "title"))
    launch = words(child(root, "secure_launch_url")) or words(child(root, "launch_url"))
    about = html.escape(words(child(root, "description")), quote=False)
    text = f"<p>{about}</p>" if about else ""
    if launch:
        text += f'<p><a href="{html.escape(launch)}">{html.escape(title or launch, quote=False)}</a></p>'
    custom = {
        f"tool_{attribute(found, 'name')}": words(found)
        for found in descendants(root, "property")
    }
    extra: Extra = {}
    for found in children(root):
        if local(found) not in _OF_TOOL and words(found) != launch:
            extra |= everything(found, local(found))
    return _SmallFile(title, text, {"tool": launch, **custom}, extra)


_READERS = {
    "webLink": _link,
    "topic": _topic,
    "assignment": _assignment,
    "cartridge_basiclti_link": _tool,
}


def _text(element: etree._Element | None) -> str:
    """A text as HTML; one that says it is plain stays plain."""
    if element is None:
        return ""
    text = all_text(element).strip()
    if attribute(element, "texttype").lower() == "text/plain":
        return "".join(
            f"<p>{html.escape(line, quote=False)}</p>"
            for line in text.splitlines()
            if line.strip()
        )
    return without_file_base(text)


def _attached(root: etree._Element, of_teachers: bool = False) -> str:
    """The files that belong to a text, as a list of links: those for students, or those for teachers alone."""
    links = "".join(_lines(root, of_teachers))
    if links:
        return f"\n<ul>\n{links}</ul>"
    return ""


def _lines(root: etree._Element, of_teachers: bool) -> Iterator[str]:
    for found in descendants(root, "attachment"):
        if (attribute(found, "role").casefold() in OF_TEACHERS) != of_teachers:
            continue
        href = without_file_base(attribute(found, "href"))
        name = html.escape(unquote(href.rpartition("/")[2]), quote=False)
        yield f'<li><a href="{html.escape(href)}">{name}</a></li>\n'
