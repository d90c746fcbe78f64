"""Metadata in a manifest that have no place in the content model (IEEE LOM 1484.12.1, as Common Cartridge uses it)."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from lxml import etree

from newburrow.formats.xml_names import (
    attribute,
    children,
    descendants,
    local,
    words,
    xml_attribute,
)
from newburrow.model import Extra

_WRAPPERS = ("string", "langstring", "value", "metadata", "lom")
_UNTOLD = (
    "source",
    "schema",
    "schemaversion",
)  # which list a word is from, and which standard is meant
OF_TEACHERS = frozenset(("instructor", "mentor", "teacher", "administrator"))


def unread(element: etree._Element | None, read: Collection[str] = ()) -> Extra:
    """The texts in an element of metadata: path without wrappers, such as `general/keyword` -> texts.

    Those at paths in `read` are left out.
    """
    found: Extra = {}
    for path, text in _leaves(element, "") if element is not None else ():
        if path and path not in read:
            found.setdefault(path, []).append(text)
    return found


def _leaves(element: etree._Element, path: str) -> Iterator[tuple[str, str]]:
    for child in children(element):
        name = local(child)
        if name in _UNTOLD:
            continue
        inner = path if name in _WRAPPERS else f"{path}/{name}".lstrip("/")
        if len(child):
            yield from _leaves(child, inner)
        elif text := words(child):
            yield inner, text


def everything(element: etree._Element, path: str) -> Extra:
    """All texts and attributes in an element, by their paths below `path`; the bare path for one that has none."""
    found: Extra = {}
    waiting = [(path, element)]
    while waiting:
        here, holder = waiting.pop()
        values = {str(name).rpartition("}")[2]: str(value) for name, value in holder.items()}
        for name, value in values.items():
            found.setdefault(f"{here}/{name}", []).append(value)
        text = (holder.text or "").strip()
        if text or not (len(holder) or values):
            found.setdefault(here, []).append(text)
        waiting += [(f"{here}/{local(inner)}", inner) for inner in children(holder)][::-1]
    return found


def in_language(element: etree._Element | None, language: str) -> tuple[str, Extra]:
    """A text of LOM in a language, else the first that there is; and the others, by their languages.

    It is a LangString: a text for each language (IEEE 1484.12.1 section 5).
    """
    if element is not None:
        texts = list(descendants(element, "string", "langstring"))
    else:
        texts = []
    if len(texts) < 2:
        return words(element), {}
    named = [
        (attribute(text, "language") or xml_attribute(text, "lang"), words(text))
        for text in texts
    ]
    chosen = next((pair for pair in named if pair[0] and pair[0] == language), named[0])
    others = [pair for pair in named if pair is not chosen]
    return chosen[1], {f"in {name or 'another language'}": [text] for name, text in others}


def is_for_teachers(metadata: etree._Element | None) -> bool:
    """Whether a resource says that students do not see it (Common Cartridge 1.3, section 3.4.3)."""
    if metadata is None:
        return False
    roles = {
        words(value).casefold()
        for role in descendants(metadata, "intendedEndUserRole")
        for value in descendants(role, "value")
    }
    return bool(roles) and roles <= OF_TEACHERS
