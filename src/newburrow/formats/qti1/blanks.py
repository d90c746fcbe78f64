"""Fields of QTI 1.2 with several blanks, as a field for each (ASI information model, section 3.4.1: `render_fib`)."""

from __future__ import annotations

from collections.abc import Sequence

from lxml import etree

from newburrow.formats.qti1.material import FIELDS
from newburrow.formats.xml_names import attribute, descendants, local, namespace, number

_FLOW = "flow"  # an element that only arranges what is in it


def split(item: etree._Element, responses: Sequence[etree._Element]) -> bool:
    """Give each blank a response of its own, in the tree of an item; whether there was anything to split.

    Rules say which blank they ask for by its place (`index`) or by the identifier of its label. A field of which a
    rule asks for any blank stays as it is.
    """
    found = False
    for response in responses:
        if local(response) not in FIELDS:
            continue
        labels = list(descendants(response, "response_label"))
        renders = list(descendants(response, "render_fib"))
        if len(labels) > 1 and renders and _name_apart(item, response, labels):
            _fields_around(response, renders, labels)
            found = True
    return found


def _name_apart(
    item: etree._Element, response: etree._Element, labels: list[etree._Element]
) -> bool:
    """Let rules name the response of the blank that they ask for; False, and no change, where one asks for any."""
    ident, own = attribute(response, "ident"), [attribute(label, "ident") for label in labels]
    renamed: list[tuple[etree._Element, str]] = []
    for test in item.iter("{*}*"):
        asked = attribute(test, "respident")
        if asked == ident:
            place = int(number(attribute(test, "index")) or 0)
            if not 1 <= place <= len(labels):
                return False
            renamed.append((test, _name(ident, place)))
        elif asked and asked in own:
            renamed.append((test, _name(ident, own.index(asked) + 1)))
    for test, name in renamed:
        test.set("respident", name)
        if "index" in test.attrib:
            del test.attrib["index"]
    return True


def _fields_around(
    response: etree._Element, renders: list[etree._Element], labels: list[etree._Element]
) -> None:
    """Put a field around each label, and make the response an element that only arranges them."""
    ident, space = attribute(response, "ident"), namespace(response)
    for place, label in enumerate(labels, 1):
        field = etree.Element(response.tag, {"ident": _name(ident, place)})
        render = etree.SubElement(field, renders[0].tag)
        for key, value in renders[0].attrib.items():
            render.set(key, value)
        field.tail, label.tail = label.tail, None
        holder = label.getparent()
        if holder is not None:
            holder.replace(label, field)
        render.append(label)
    for element in (response, *renders):
        element.tag = f"{{{space}}}{_FLOW}" if space else _FLOW


def _name(ident: str, place: int) -> str:
    return f"{ident}-{place}"
