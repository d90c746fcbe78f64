"""What readers say of values that are not what they should be."""

from __future__ import annotations

from newburrow.core.problem import Problem, Severity
from newburrow.model import Where


def unknown_value(what: str, value: str, otherwise: str, where: Where, key: str) -> Problem:
    """A kind or state that is none of ours."""
    return Problem(
        Severity.WARNING,
        f"unknown-{what}",
        f"The {what} {value!r} is not one that the dialect maps; it is read as {otherwise!r}.",
        f"Add {value!r} to [values.{what}] of the dialect.",
        where,
        "entry" if key else "",
        key,
    )


def no_date(name: str, text: str, where: Where, key: str) -> Problem:
    """A date that is none."""
    return Problem(
        Severity.WARNING,
        "no-date",
        f"The {name} date {text!r} is no date.",
        "Set the date by hand on the new host, or correct it in the export.",
        where,
        "entry" if key else "",
        key,
    )


def no_number(name: str, text: str, where: Where, key: str) -> Problem:
    """A number that is none."""
    message = f"The {name} {text!r} is no number."
    return Problem(Severity.INFO, "no-number", message, "", where, "entry" if key else "", key)
