"""Selectors of members of JSON objects."""

from __future__ import annotations

from typing import Any

from jsonpath_rfc9535 import JSONPathEnvironment, JSONPathError, JSONPathQuery
from jsonpath_rfc9535.function_extensions import Match, Search

from newburrow.core.problem import refusal
from newburrow.core.time_limit import TimeLimitReached, time_limit
from newburrow.dialects.selector import check_length

_SECONDS = 0.5  # for one value; an honest expression needs a thousandth of it


class _BoundedMatch(Match):
    """`match` (RFC 9535 2.4.6) with a limit on the time that an expression takes."""

    def __call__(self, string: str, pattern: object) -> bool:
        """Raises BurrowError where the limit is reached."""
        try:
            with time_limit(_SECONDS):
                return super().__call__(string, pattern)
        except TimeLimitReached:
            raise _too_slow(pattern) from None


class _BoundedSearch(Search):
    """`search` (RFC 9535 2.4.7), likewise."""

    def __call__(self, string: str, pattern: object) -> bool:
        """Raises BurrowError where the limit is reached."""
        try:
            with time_limit(_SECONDS):
                return super().__call__(string, pattern)
        except TimeLimitReached:
            raise _too_slow(pattern) from None


def _too_slow(pattern: object) -> Exception:
    return refusal(
        "slow-expression",
        f"The expression {pattern!r} in a filter of the dialect takes too long on a value of the export.",
        "Write it without repetitions within repetitions, such as (a+)+.",
    )


_PATHS = JSONPathEnvironment()
_PATHS.function_extensions |= {"match": _BoundedMatch(), "search": _BoundedSearch()}


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
            try:
                self.query = _PATHS.compile(text)
            except (JSONPathError, RecursionError, OverflowError) as error:
                raise ValueError(
                    f"{text!r} is not a JSONPath query (RFC 9535): {error}"
                ) from None

    def found(self, value: Any) -> list[tuple[tuple[int | str, ...], Any]]:
        """The values selected, each with the path to it."""
        if self.query is None:
            present = isinstance(value, dict) and self.name in value
            if present:
                return [((self.name,), value[self.name])]
            return []
        return [(tuple(node.location), node.value) for node in self.query.find(value)]
