"""Regular expressions that others wrote, as those of an old server: no search in them takes longer than a bound."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import regex

_SECONDS = 0.1  # for one search; an honest expression needs a thousandth of it
_TRIED = 30  # how often a piece is repeated to see whether an expression takes exponential time
_PIECES = ("a", "0", "a/", "a-", "/", "ab1-_.")

_given_up: set[str] = set()


def search(expression: str, text: str) -> regex.Match[str] | None:
    """The first match; None where there is none, where the expression is wrong, or where it takes too long.

    An expression that once took too long is not tried again.
    """
    import regex  # heavy: imported where it is used

    if expression in _given_up:
        return None
    try:
        return regex.search(expression, text, timeout=_SECONDS)
    except TimeoutError:
        _given_up.add(expression)
    except regex.error:
        pass
    return None


def is_too_slow(expression: str) -> bool:
    """Whether an expression takes too long for one of the paths that bring such expressions out."""
    import regex

    for piece in _PIECES:
        try:
            regex.search(expression, f"/{piece * _TRIED}\n\n", timeout=_SECONDS)
        except TimeoutError:
            return True
        except regex.error:
            return False
    return False
