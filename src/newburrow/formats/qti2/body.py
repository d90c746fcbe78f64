"""Texts of QTI 2: XHTML in its own namespace, as HTML (QTI 2.1, section 6)."""

from __future__ import annotations

import html
from enum import Enum

from lxml import etree

from newburrow.formats.qti1.material import without_file_base
from newburrow.formats.xml_names import attribute, local, words
from newburrow.markup.html_tags import VOID
from newburrow.model.course import GAP_BEGINS, GAP_ENDS

# Interactions that stand within the text; all others are apart from it.
INLINE = ("textEntryInteraction", "inlineChoiceInteraction", "gap")
_APART = (
    "rubricBlock",
    "feedbackBlock",
    "feedbackInline",
    "templateInline",
    "templateBlock",
    "stylesheet",
)
# What interactions hold besides text.
_CHOICES = ("gapText", "gapImg", "hotspotChoice", "associableHotspot", "simpleChoice", "simpleAssociableChoice",
            "simpleMatchSet", "inlineChoice")  # fmt: skip
_KEEP = ("src", "href", "alt", "title", "width", "height", "lang", "dir", "class", "id", "colspan", "rowspan",
         "scope", "headers", "cite", "span", "summary", "longdesc", "controls", "poster", "kind", "srclang", "label",
         "type", "start", "reversed", "datetime")  # fmt: skip


class Gaps(Enum):
    """Which interactions leave a gap where they stand."""

    NONE = "none"
    IN_TEXT = "those within the text"
    ALL = "all"


def html_of(element: etree._Element | None, gaps: Gaps = Gaps.IN_TEXT) -> str:
    """What is in an element as HTML, without interactions and feedback; some leave a gap with their name."""
    if element is None:
        return ""
    pieces = [html.escape(element.text or "", quote=False)]
    for child in element:
        pieces.append(_element(child, gaps))
        pieces.append(html.escape(child.tail or "", quote=False))
    return "".join(pieces).strip()


def is_for_candidates(rubric: etree._Element) -> bool:
    """Whether a rubric is shown to students (QTI 2.1, section 6.4: `view`); one that does not say is."""
    views = attribute(rubric, "view").split()
    return "candidate" in views or not views


def is_interaction(name: str) -> bool:
    """Whether an element of this name asks for an answer; one that asks for a hint does not."""
    return name.endswith("Interaction") and name != "endAttemptInteraction"


def _element(element: etree._Element, gaps: Gaps) -> str:
    name = local(element)
    if name in INLINE or (gaps is Gaps.ALL and is_interaction(name)):
        ident = attribute(element, "responseIdentifier") or attribute(element, "identifier")
        gap = "" if gaps is Gaps.NONE else f"{GAP_BEGINS}{ident}{GAP_ENDS}"
        return gap if name in INLINE else f" {gap} "
    if name == "rubricBlock" and is_for_candidates(element):
        return f"<div>{html_of(element, gaps)}</div>"
    if not name or name in _APART or name == "prompt":
        return ""
    if name in ("printedVariable", "mathVariable"):
        return f"<var>{html.escape(attribute(element, 'identifier'))}</var>"
    if name == "hottext":
        return f"<mark>{html_of(element, gaps)}</mark>"
    if name in ("gapMatchInteraction", "hottextInteraction"):
        return html_of(element, gaps)
    if name in _CHOICES or name.endswith("Interaction"):
        return ""
    if name == "object":
        return _object(element)
    attributes = "".join(
        f' {key}="{html.escape(without_file_base(str(value)))}"'
        for full, value in element.attrib.items()
        if (key := str(full).rpartition("}")[2]) in _KEEP or name in ("math", "mi", "mo", "mn")
    )
    if name in VOID:
        return f"<{name}{attributes}>"
    return f"<{name}{attributes}>{html_of(element, gaps)}</{name}>"


def _object(element: etree._Element) -> str:
    address = html.escape(without_file_base(attribute(element, "data")))
    kind = attribute(element, "type")
    label = html.escape(words(element))
    if kind.startswith("image/"):
        return f'<img src="{address}" alt="{label}">'
    if kind.startswith(("audio/", "video/")):
        return f'<{kind[:5]} src="{address}" controls>{label}</{kind[:5]}>'
    return f'<a href="{address}">{label or address.rpartition("/")[2]}</a>'
