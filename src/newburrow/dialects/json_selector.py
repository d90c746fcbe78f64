"""Selectors of members of JSON objects. The library for JSONPath is heavy: it is imported for the first query."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any

from newburrow.core.problem import refusal
from newburrow.core.time_limit import TimeLimitReached, time_limit
from newburrow.dialects.selector import check_length

if TYPE_CHECKING:
    from jsonpath_rfc9535 import JSONPathEnvironment, JSONPathQuery
    from jsonpath_rfc9535.function_extensions import FilterFunction

_SECONDS = 0.5  # for one value; an honest expression needs a thousandth of it


class JsonSelector:
    """A member's name or a JSONPath query (RFC 9535). Raises ValueError, saying why, where the text is none."""

    def __init__(self, text: str) -> None:
        check_length(text)
        self.query: JSONPathQuery | None = None
        if text.startswith("$"):
            self.name = ""
        else:
            self.name = text
        if not self.name:
            self.query = _compiled(text)

    def found(self, value: Any) -> list[tuple[tuple[int | str, ...], Any]]:
        """The values selected, each with the path to it."""
        if self.query is None:
            present = isinstance(value, dict) and self.name in value
            if present:
                return [((self.name,), value[self.name])]
            return []
        return [(tuple(node.location), node.value) for node in self.query.find(value)]


def _compiled(text: str) -> JSONPathQuery:
    from jsonpath_rfc9535 import JSONPathError

    try:
        return _environment().compile(text)
    except (JSONPathError, RecursionError, OverflowError) as error:
        raise ValueError(f"{text!r} is not a JSONPath query (RFC 9535): {error}") from None


@lru_cache(maxsize=1)
def _environment() -> JSONPathEnvironment:
    """What compiles queries; the expressions in their filters have a limit of time (RFC 9535 2.4.6, 2.4.7)."""
    from jsonpath_rfc9535 import JSONPathEnvironment
    from jsonpath_rfc9535.function_extensions import Match, Search

    paths = JSONPathEnvironment()
    paths.function_extensions |= {"match": _bounded(Match()), "search": _bounded(Search())}
    return paths


def _bounded(function: FilterFunction) -> FilterFunction:
    """The same function of a filter, with a limit on the time that an expression takes.

    Called, it raises BurrowError where the limit is reached.
    """

    class BoundedFilter(type(function)):  # type: ignore[misc]
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
