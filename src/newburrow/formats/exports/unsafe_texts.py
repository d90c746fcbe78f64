"""Texts besides bodies that would run a script if a host took them for HTML, and files that do."""

from __future__ import annotations

import re
from typing import Any, TypeVar

from msgspec.structs import replace
from selectolax.lexbor import LexborNode

from newburrow.core.problem import Problem
from newburrow.core.web_schemes import runs_script
from newburrow.markup.html import DEEPEST, Fragment, deeper_than, flattened
from newburrow.markup.sanitiser import FORBIDDEN, sanitised
from newburrow.model import Record
from newburrow.model.record_types import type_of

R = TypeVar("R", bound=Record)

_LIKE_HTML = re.compile(r"<[a-zA-Z/!?]")
_ACTIVE_BYTES = re.compile(rb"<script|[\s\"'/]on[a-z]{3,}\s*+=|javascript:", re.IGNORECASE)
_RUN = ("on", "srcdoc", "formaction")  # how attributes begin that hold a script
_OPENED_AS_PAGES = (".svg", ".html", ".htm", ".xhtml", ".xht", ".shtml")
_OVERLAP = 64  # bytes


def without_active(record: R) -> tuple[R, list[Problem]]:
    """The record without scripts in its descriptions; a name or title stays as it is, and is a finding."""
    changed: dict[str, Any] = {}
    problems: list[Problem] = []
    record_type = type_of(type(record))
    for field in record_type.texts:
        value = getattr(record, field)
        if isinstance(value, dict):
            cleaned: Any = {name: _clean(text) for name, text in value.items()}
        else:
            cleaned = _clean(value)
        if cleaned != value:
            changed[field] = cleaned
            place = field.replace("_", " ")
            problems.append(Problem.about(record, "script-in-text", place=place))
    for field in record_type.names:
        value = getattr(record, field, "")
        if _clean(value) != value:
            place = field.replace("_", " ")
            problems.append(Problem.about(record, "script-like-name", value, place=place))
    if changed:
        return replace(record, **changed), problems
    return record, problems


def _clean(text: str) -> str:
    """The text without what could run a script in HTML; the text itself if there is nothing of it."""
    if not _LIKE_HTML.search(text):
        return text
    if deeper_than(text, DEEPEST // 2):
        found = Fragment(flattened(text))
    else:
        found = Fragment(text)
        if not any(_is_active(node) for node in found.elements()):
            return text
    return sanitised(found.html(), frozenset(), lambda *_what: None)


def _is_active(node: LexborNode) -> bool:
    return (node.tag or "").lower() in FORBIDDEN or any(
        name.lower().startswith(_RUN) or runs_script(value or "")
        for name, value in node.attributes.items()
    )


class ScriptSearch:
    """Looks for scripts in a file that browsers open as a page, while it is read."""

    def __init__(self, name: str) -> None:
        """`name` is that of the file; only drawings (SVG) and pages are looked into."""
        self._is_page = name.lower().endswith(_OPENED_AS_PAGES)
        self._before = b""
        self.found = False

    def feed(self, block: bytes) -> None:
        """Look into the next bytes."""
        if self._is_page and not self.found:
            self.found = _ACTIVE_BYTES.search(self._before + block) is not None
            self._before = block[-_OVERLAP:]
