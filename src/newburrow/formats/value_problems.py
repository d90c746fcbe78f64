"""What readers say about values that are not what they should be."""

from __future__ import annotations

from msgspec.structs import replace

from newburrow.core.problem import Problem
from newburrow.model import Where


def at_entry(problem: Problem, key: str) -> Problem:
    """The problem as one of the entry with this key; of no entry if the key is empty."""
    if key:
        return replace(problem, object="entry", key=key)
    return problem


def unknown_value(fact: str, value: str, otherwise: str, where: Where, key: str) -> Problem:
    """A kind or state that the dialect does not map, and that is read as `otherwise`."""
    problem = Problem.at(where, "unknown-value", fact=fact, value=value, otherwise=otherwise)
    return at_entry(problem, key)


def not_content(kind: str, where: Where) -> Problem:
    """An item of a kind that the dialect maps to nothing."""
    return Problem.at(where, "not-content", kind=kind)


def no_date(name: str, text: str, where: Where, key: str) -> Problem:
    """A text that is not a date."""
    return at_entry(Problem.at(where, "no-date", name=name, text=text), key)


def no_number(name: str, text: str, where: Where, key: str) -> Problem:
    """A text that is not a number."""
    message = f"The {name} {text!r} is not a number."
    return at_entry(Problem.at(where, "no-number", message=message), key)
