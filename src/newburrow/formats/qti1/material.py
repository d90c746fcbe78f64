"""Texts of QTI 1.2: `material` and what may stand in it, as HTML (ASI information model, section 3.6)."""

from __future__ import annotations

import html
import re
from enum import Enum

from lxml import etree

from newburrow.formats.xml_names import attribute, local
from newburrow.markup.html_tags import VOID
from newburrow.model.course import BLANK, GAP_BEGINS, GAP_ENDS

RESPONSES = ("response_lid", "response_str", "response_num", "response_grp", "response_xy")
FIELDS = ("response_str", "response_num")  # what is answered by a text or a number
_FLOWS = frozenset(
    (
        "flow",
        "flow_mat",
        "flow_label",
        "material",
        "material_ref",
        "altmaterial",
        "presentation_material",
        "render_choice",
        "render_fib",
        "render_hotspot",
        "render_slider",
    )
)
_BLANK = f"{GAP_BEGINS}{GAP_ENDS}"  # where an answer is given within a response
_TAG = re.compile(
    r"<(?:p|br|b|i|u|em|strong|img|a|div|span|ul|ol|li|table|h[1-6]|pre|code|sub|sup)\b[^<>]*>",
    re.IGNORECASE,
)
# The word for the folder of a cartridge's files, also as other programs spell it.
_FILE_BASE = re.compile(r"(\$|%24)(?:IMS|1EdTech)[-_]CC[-_]FILEBASE\1/*", re.IGNORECASE)


def without_file_base(text: str) -> str:
    """A text whose addresses begin in the package's folder of files without the word for that folder."""
    if "FILEBASE" in text or "filebase" in text:  # in most it is not
        return _FILE_BASE.sub("", text)
    return text


def is_for_students(rubric: etree._Element) -> bool:
    """Whether students see a rubric (ASI information model, section 3.3: `view`)."""
    return attribute(rubric, "view").lower() in ("", "all", "candidate")


class Responses(Enum):
    """What stands for the responses in a text."""

    TEXTS = "texts"  # the texts in them, but for the choices
    GAPS = "gaps"  # these, and a gap where the answer is given
    PARTS = "parts"  # the same, but the texts of a list are those of a part
    NOTHING = "nothing"


def html_of(element: etree._Element, responses: Responses = Responses.TEXTS) -> str:
    """The texts, pictures and files in an element as HTML, but for those of choices."""
    only = _only_text(element)
    if only is not None:
        return _text(only)
    pieces: list[str] = []
    _collect(element, responses, pieces)
    return _joined([piece for piece in pieces if piece != _BLANK])


def choice_of(label: etree._Element) -> str:
    """What is chosen by a `response_label` as HTML; it can be text without any `material`."""
    before, after = _outside(label.text), [_outside(child.tail) for child in label]
    only = _only_text(label)
    if only is not None and not before and not any(after):
        return _text(only)
    pieces = [before]
    _collect(label, Responses.NOTHING, pieces)
    return _joined([piece for piece in (*pieces, *after) if piece])


def _only_text(element: etree._Element) -> etree._Element | None:
    """The one `mattext` of an element that holds nothing else, as most do: there is nothing to put together."""
    while len(element) == 1:
        element = element[0]
        name = local(element)
        if name == "mattext":
            return element
        if name not in _FLOWS:
            return None
    return None


def _collect(element: etree._Element, responses: Responses, pieces: list[str]) -> None:
    """Add what stands in an element, and in those that only arrange it."""
    for child in element:
        name = local(child)
        if name in _FLOWS:
            _collect(child, responses, pieces)
        elif name in ("mattext", "matemtext"):
            pieces.append(_text(child))
        elif name in RESPONSES:
            _collect_response(child, name, responses, pieces)
        elif name == "response_label":
            pieces.append(_BLANK)
        elif name == "matbreak":
            pieces.append("<br>")
        elif name.startswith("mat"):
            pieces.append(_file(child, name))


def _collect_response(
    response: etree._Element, name: str, responses: Responses, pieces: list[str]
) -> None:
    """Add what stands for a response: of a field with several blanks, the gap is the first one."""
    if responses is Responses.NOTHING:
        return
    inner: list[str] = []
    if responses is not Responses.PARTS or name in FIELDS:
        _collect(response, responses, inner)
    if name in FIELDS and inner.count(_BLANK) > 1:
        other_blanks = BLANK
    else:
        other_blanks = ""
    if responses is not Responses.TEXTS:
        gap = f"{GAP_BEGINS}{attribute(response, 'ident')}{GAP_ENDS}"
        place = inner.index(_BLANK) if _BLANK in inner else len(inner)
        inner[place : place + 1] = [gap]
    for piece in inner:
        pieces.append(other_blanks if piece == _BLANK else piece)


def _joined(pieces: list[str]) -> str:
    """Texts beside one another with a space between their words."""
    if len(pieces) == 1:
        return pieces[0]
    made = ""
    for piece in filter(None, pieces):
        between = made and not made[-1:].isspace() and not piece[:1].isspace()
        made += f" {piece}" if between else piece
    return made


def _text(element: etree._Element) -> str:
    if len(element):
        return _inner(element)
    text = (element.text or "").strip()
    if not text:  # in a file of its own, or none at all
        if attribute(element, "uri"):
            return _file(element, "mattext")
        return ""
    return _written(text, attribute(element, "texttype"))


def _written(text: str, type_: str) -> str:
    """A text without spaces around it as HTML; one that is plain by its type is HTML all the same where it has tags."""
    if "html" in type_.lower() or _TAG.search(text):
        return without_file_base(text).strip()
    return html.escape(text, quote=False).replace("\n", "<br>\n")


def _outside(text: str | None) -> str:
    """A text that stands beside the elements for it, as HTML; in most places there are only spaces."""
    words = text.strip() if text else ""
    if words:
        return _written(words, "")
    return ""


def _inner(element: etree._Element) -> str:
    """XHTML that stands in the XML itself, as HTML."""
    pieces = [html.escape(element.text or "", quote=False)]
    for child in element:
        name = local(child)
        attributes = "".join(
            f' {str(key).rpartition("}")[2]}="{html.escape(without_file_base(str(value)))}"'
            for key, value in child.attrib.items()
        )
        if name:
            end = "" if name in VOID else f"{_inner(child)}</{name}>"
            pieces.append(f"<{name}{attributes}>{end}")
        pieces.append(html.escape(child.tail or "", quote=False))
    return "".join(pieces).strip()


def _file(element: etree._Element, name: str) -> str:
    address = html.escape(without_file_base(attribute(element, "uri"))) or _embedded(element)
    label = html.escape(attribute(element, "label"))
    if not address:
        return ""
    if name == "matimage":
        return f'<img src="{address}" alt="{label}">'
    if name in ("mataudio", "matvideo"):
        tag = name.removeprefix("mat")
        return f'<{tag} src="{address}" controls></{tag}>'
    if address.startswith("data:"):
        last_name = "file"
    else:
        last_name = address.rpartition("/")[2]
    return f'<a href="{address}">{label or last_name}</a>'


def _embedded(element: etree._Element) -> str:
    """The address of a file that an element holds itself (RFC 2397); empty where it holds none."""
    data = "".join((element.text or "").split())
    if not data or attribute(element, "embedded").lower() != "base64":
        return ""
    types = (str(value) for name, value in element.attrib.items() if str(name).endswith("type"))
    return html.escape(f"data:{next(types, 'application/octet-stream')};base64,{data}")
