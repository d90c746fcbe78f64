"""Selectors of members of JSON objects."""

from __future__ import annotations

from typing import Any

from jsonpath_rfc9535 import JSONPathEnvironment, JSONPathError, JSONPathQuery
from jsonpath_rfc9535.function_extensions import FilterFunction, Match, Search

from newburrow.core.problem import refusal
from newburrow.core.time_limit import TimeLimitReached, time_limit
from newburrow.dialects.selector import check_length

_SECONDS = 0.5  # for one value; an honest expression needs a thousandth of it


def _bounded(function: FilterFunction) -> FilterFunction:
    """The same function of a filter, with a limit on the time that an expression takes.

    Called, it raises BurrowError where the limit is reached.
    """

    class BoundedFilter(FilterFunction):
        arg_types, return_type = function.arg_types, function.return_type

        def __call__(self, text: object, pattern: object) -> object:
            try:
                with time_limit(_SECONDS):
                    return function(text, pattern)
            except TimeLimitReached:
                raise refusal(
                    "slow-expression",
                    f"The expression {pattern!r} in a filter of the dialect takes too long on a value of the export.",
                    "Avoid a repetition within a repetition, such as (a+)+.",
                ) from None

    return BoundedFilter()


_PATHS = JSONPathEnvironment()
_PATHS.function_extensions |= {
    "match": _bounded(Match()),
    "search": _bounded(Search()),
}  # RFC 9535 2.4.6, 2.4.7


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
