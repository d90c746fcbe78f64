"""Selectors of members of JSON objects."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from newburrow.dialects.selector import check_length

if TYPE_CHECKING:
    from jsonpath_rfc9535 import JSONPathQuery


class JsonSelector:
    """A member's name or a JSONPath query (RFC 9535). Raises ValueError, saying why, where the text is none."""

    def __init__(self, text: str) -> None:
        check_length(text)
        if text.startswith("$"):
            self.name = ""
        else:
            self.name = text
        self.query: JSONPathQuery | None = None
        if not self.name:
            from newburrow.dialects import json_paths  # heavy: few dialects have such queries

            self.query = json_paths.compiled(text)

    def found(self, value: Any) -> list[tuple[tuple[int | str, ...], Any]]:
        """The values selected, each with the path to it."""
        if self.query is None:
            present = isinstance(value, dict) and self.name in value
            if present:
                return [((self.name,), value[self.name])]
            return []
        return [(tuple(node.location), node.value) for node in self.query.find(value)]
