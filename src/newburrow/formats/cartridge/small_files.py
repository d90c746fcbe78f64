"""The small XML files of a cartridge: web links, discussion topics, assignments and tools.

Common Cartridge 1.3, sections 4.4 (web links), 4.5 (discussion topics), 4.8 (tools), and the assignment extension.
"""

from __future__ import annotations

import html
from collections.abc import Iterator

from lxml import etree

from newburrow.formats.qti1.material import without_file_base
from newburrow.formats.xml_names import all_text, attribute, child, descendants, local, words
from newburrow.model import Body, Entry


def entry_of(root: etree._Element, entry: Entry) -> Entry | None:
    """The entry with what its file says; None for a file with another root than its resource promises."""
    from msgspec.structs import replace

    reader = _READERS.get(local(root))
    if reader is None:
        return None
    title, text, fields = reader(root)
    return replace(
        entry,
        title=title or entry.title,
        body=Body(text, base=entry.body.base),
        fields={name: value for name, value in fields.items() if value},
    )


def _link(root: etree._Element) -> tuple[str, str, dict[str, str]]:
    title, element = words(child(root, "title")), child(root, "url")
    address = attribute(element, "href") if element is not None else ""
    shown = html.escape(title or address, quote=False)
    text = f'<p><a href="{html.escape(address)}">{shown}</a></p>' if address else ""
    return title, text, {}


def _topic(root: etree._Element) -> tuple[str, str, dict[str, str]]:
    text = _text(child(root, "text"))
    return words(child(root, "title")), text + _attached(root), {}


def _assignment(root: etree._Element) -> tuple[str, str, dict[str, str]]:
    gradable = child(root, "gradable")
    formats = [attribute(found, "type") for found in descendants(root, "format")]
    fields = {
        "points": attribute(gradable, "points_possible") if gradable is not None else "",
        "graded": words(gradable),
        "hand_in": ", ".join(filter(None, formats)),
        "for_teachers": _text(child(root, "instructor_text")),
    }
    return words(child(root, "title")), _text(child(root, "text")) + _attached(root), fields


def _tool(root: etree._Element) -> tuple[str, str, dict[str, str]]:
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
    return title, text, {"tool": launch, **custom}


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


def _attached(root: etree._Element) -> str:
    links = "".join(_lines(root))
    return f"\n<ul>\n{links}</ul>" if links else ""


def _lines(root: etree._Element) -> Iterator[str]:
    for found in descendants(root, "attachment"):
        href = without_file_base(attribute(found, "href"))
        name = html.escape(href.rpartition("/")[2], quote=False)
        yield f'<li><a href="{html.escape(href)}">{name}</a></li>\n'
