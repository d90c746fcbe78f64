"""What is wrong with an address pattern of a dialect, a host profile or a decision."""

from __future__ import annotations

from collections.abc import Iterator

from newburrow import address
from newburrow.problem import suggest


def unknown_variables(
    keys: list[str], pattern: str, known: tuple[str, ...]
) -> Iterator[tuple[list[str], str, str]]:
    """The mistakes in a pattern: variables that nothing fills, and no variable at all. Key path, message, advice."""
    for name in address.variables(pattern):
        if name not in known:
            yield (
                keys,
                f"The pattern {pattern!r} has an unknown variable {{{name}}}.",
                suggest(name, known, "The variables here are"),
            )
    if pattern and not address.variables(pattern):
        yield (
            keys,
            f"The pattern {pattern!r} gives every object the same address.",
            f"Put a variable such as {{{known[0]}}} into it.",
        )
