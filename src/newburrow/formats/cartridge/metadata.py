"""Metadata in a manifest that have no place in the content model (IEEE LOM 1484.12.1, as Common Cartridge uses it)."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from lxml import etree

from newburrow.formats.xml_names import children, descendants, local, words
from newburrow.model import Extra

_WRAPPERS = ("string", "langstring", "value", "metadata", "lom")
_UNTOLD = (
    "source",
    "schema",
    "schemaversion",
)  # which list a word is from, and which standard is meant
_OF_TEACHERS = frozenset(("instructor", "mentor", "teacher", "administrator"))


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


def is_for_teachers(metadata: etree._Element | None) -> bool:
    """Whether a resource says that students do not see it (Common Cartridge 1.3, section 3.4.3)."""
    if metadata is None:
        return False
    roles = {
        words(value).casefold()
        for role in descendants(metadata, "intendedEndUserRole")
        for value in descendants(role, "value")
    }
    return bool(roles) and roles <= _OF_TEACHERS
