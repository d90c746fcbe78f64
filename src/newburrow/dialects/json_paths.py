"""JSONPath queries (RFC 9535) whose expressions have a limit of time."""

from __future__ import annotations

from jsonpath_rfc9535 import JSONPathEnvironment, JSONPathError, JSONPathQuery
from jsonpath_rfc9535.function_extensions import FilterFunction, Match, Search

from newburrow.core.problem import refusal
from newburrow.core.time_limit import TimeLimitReached, time_limit

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


def compiled(text: str) -> JSONPathQuery:
    """A query. Raises ValueError, saying why, where the text is none."""
    try:
        return _PATHS.compile(text)
    except (JSONPathError, RecursionError, OverflowError) as error:
        raise ValueError(f"{text!r} is not a JSONPath query (RFC 9535): {error}") from None
